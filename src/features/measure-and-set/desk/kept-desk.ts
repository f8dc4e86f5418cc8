import * as z from 'zod';

/** How the panels of a desk share its height and its width, in percent by panel. */
const sharesSchema = z.object({
  rows: z.record(z.string(), z.number().min(0).max(100)),
  cards: z.record(z.string(), z.number().min(0).max(100)),
});
export type KeptShares = z.infer<typeof sharesSchema>;

/** A cookie, so that the server makes the page as it was left. */
export const SHARES_COOKIE = 'opsimeter-desk';
const YEAR_SECONDS = 365 * 24 * 60 * 60;

export function keepShares(shares: KeptShares): void {
  const text = encodeURIComponent(JSON.stringify(shares));
  // biome-ignore lint/suspicious/noDocumentCookie: the Cookie Store API is not in every browser.
  document.cookie = `${SHARES_COOKIE}=${text}; path=/; max-age=${YEAR_SECONDS}; samesite=lax`;
}

/** What was kept; undefined of what can't be read, which is as good as nothing. */
export function readShares(text: string | undefined): KeptShares | undefined {
  if (text === undefined) return undefined;
  try {
    const shares = sharesSchema.safeParse(JSON.parse(text));
    return shares.success ? shares.data : undefined;
  } catch {
    return undefined;
  }
}
