import type { Readable } from 'node:stream';
import { webStream } from './web-stream';

/** A ZIP as an answer, streamed, to be kept under its own name. */
export function zipResponse({ fileName, body }: { fileName: string; body: Readable }): Response {
  return new Response(webStream(body), {
    headers: {
      'Content-Type': 'application/zip',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
      'Cache-Control': 'no-store',
    },
  });
}
