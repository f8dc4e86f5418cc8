import type { Certificate } from '@/core/delivery/certificate';
import { certificatePdf } from './pdf';

/** Certificates as a file to be kept. @param areListed JSON is a list even of one */
export async function certificateResponse(
  as: 'pdf' | 'json',
  certificates: readonly Certificate[],
  stem: string,
  areListed = false,
): Promise<Response> {
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
