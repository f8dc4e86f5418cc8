import parseRange from 'range-parser';

/** A file that can be asked for, or a part of it. */
export interface ServedFile {
  fileName: string;
  mediaType: string;
  sizeBytes: number;
  /** Its bytes, or those from one to another, both included. */
  stream(part?: { start: number; end: number }): BodyInit;
}

/**
 * A file as an answer, streamed from disk, to be kept under its own name. A player, or whoever goes on after an interruption, asks
 * for a part of it (RFC 9110, section 14, from memory); of several parts at once it is given the whole, as it may be.
 */
export function fileResponse({ fileName, mediaType, sizeBytes, stream }: ServedFile, request: Request): Response {
  const headers = {
    'Content-Type': mediaType,
    'Content-Length': String(sizeBytes),
    'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(fileName)}`,
    'Accept-Ranges': 'bytes',
    'Cache-Control': 'no-store',
  };
  const asked = request.headers.get('range');
  const ranges = asked === null ? undefined : parseRange(sizeBytes, asked);
  if (ranges === -1) {
    return new Response(null, { status: 416, headers: { 'Content-Range': `bytes */${sizeBytes}` } });
  }
  const [part, ...others] = Array.isArray(ranges) && ranges.type === 'bytes' ? ranges : [];
  if (!part || others.length > 0) return new Response(stream(), { headers });
  return new Response(stream(part), {
    status: 206,
    headers: {
      ...headers,
      'Content-Length': String(part.end - part.start + 1),
      'Content-Range': `bytes ${part.start}-${part.end}/${sizeBytes}`,
    },
  });
}
