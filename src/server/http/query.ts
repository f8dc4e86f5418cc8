import * as z from 'zod';

/** A part of an address that is JSON, as the schema has it. */
export function json<S extends z.ZodType>(schema: S) {
  return z.string().max(4096).transform(parseJson).pipe(schema);
}

function parseJson(text: string, context: z.RefinementCtx): unknown {
  try {
    return JSON.parse(text);
  } catch {
    context.addIssue({ code: 'custom', message: 'not JSON' });
    return z.NEVER;
  }
}

const frame = z.coerce.number().int().nonnegative();

/** A stretch of frames. */
export const stretchQuery = { startFrame: frame, frames: z.coerce.number().int().positive() };

/** What a record is known by, where an address or a body names it. */
export const id = z.string().min(1).max(64);

/** An answer of bytes. What its address names in full may be kept by the browser. */
export function bytesResponse(bytes: Uint8Array, options: { isCached: boolean }): Response {
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: {
      'Content-Type': 'application/octet-stream',
      'Cache-Control': options.isCached ? 'private, max-age=3600' : 'no-store',
    },
  });
}

/** Which part of a long list is asked for. */
export const windowQuery = {
  offset: z.coerce.number().int().nonnegative().default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
};
