import * as z from 'zod';
import type { Certificate } from '@/core/delivery/certificate';
import { parseQuery } from '../http/query';
import { certificatePdf } from './pdf';

const query = z.object({ as: z.enum(['pdf', 'json']).default('pdf') });

/** Certificates as a file to be kept. @param areListed JSON is a list even of one */
export async function certificateResponse(
  request: Request,
  certificates: readonly Certificate[],
  stem: string,
  areListed = false,
): Promise<Response> {
  const { as } = parseQuery(request, query, '"pdf" or "json" is');
  const json = () => `${JSON.stringify(areListed ? certificates : certificates[0], null, 2)}\n`;
  const body = as === 'json' ? json() : new Uint8Array(await certificatePdf(certificates));
  return new Response(body, {
    headers: {
      'Content-Type': as === 'json' ? 'application/json; charset=utf-8' : 'application/pdf',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(stem)}.${as}`,
      'Cache-Control': 'no-store',
    },
  });
}
