import * as z from 'zod';
import { GAUGE_SCALES } from '@/features/common/gauge/gauge-scale';
import { ANALYSIS_VIEWS } from '../analysis/views';

const sharesSchema = z.record(z.string(), z.number().min(0).max(100));

/** How a desk was left: what its panels show, and how they share its height and its width, in percent by panel. */
const keptSchema = z.object({
  rows: sharesSchema.optional(),
  cards: sharesSchema.optional(),
  /** Of the trace and the analysis beside it. */
  beside: sharesSchema.optional(),
  hasMeters: z.boolean().optional(),
  scale: z.enum(GAUGE_SCALES).optional(),
  analysis: z.object({ isShown: z.boolean(), open: z.array(z.enum(ANALYSIS_VIEWS)) }).optional(),
});
export type KeptDesk = z.infer<typeof keptSchema>;

/** A cookie, so that the server makes the page as it was left. */
export const DESK_COOKIE = 'opsimeter-desk';
const YEAR_SECONDS = 365 * 24 * 60 * 60;

/** Keeps something of the desk beside what was kept of it before. */
export function keepDesk(part: KeptDesk): void {
  const own = document.cookie.split('; ').find((cookie) => cookie.startsWith(`${DESK_COOKIE}=`));
  const before = own ? decodeURIComponent(own.slice(DESK_COOKIE.length + 1)) : undefined;
  const text = encodeURIComponent(JSON.stringify({ ...readDesk(before), ...part }));
  // biome-ignore lint/suspicious/noDocumentCookie: the Cookie Store API is not in every browser.
  document.cookie = `${DESK_COOKIE}=${text}; path=/; max-age=${YEAR_SECONDS}; samesite=lax`;
}

/** What was kept; nothing of what can't be read. */
export function readDesk(text: string | undefined): KeptDesk {
  if (text === undefined) return {};
  try {
    return keptSchema.safeParse(JSON.parse(text)).data ?? {};
  } catch {
    return {};
  }
}
