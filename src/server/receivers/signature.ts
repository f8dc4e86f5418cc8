import { createHmac, timingSafeEqual } from 'node:crypto';

/** A signature older than this is not taken: what was overheard can not be sent once more later on. */
const VALID_FOR_MS = 300_000;

const SCHEME = 'Opsimeter';

/** What a signature speaks for. */
export interface Signed {
  method: string;
  /** Path of the address, without its host. */
  path: string;
  /** SHA-256 of what is sent, in hexadecimal; of a part of a file, that of the whole, and where it begins. */
  content: string;
}

/** The value of the Authorization header: a time, and a keyed hash of it and of what is sent. The secret itself stays here. */
export function sign(secret: string, signed: Signed, atMs: number): string {
  return `${SCHEME} at=${atMs}, mac=${macOf(secret, signed, atMs)}`;
}

/** Whether a header was made with the same secret, for the same content, a short while ago. */
export function isSignedBy(secret: string, header: string | null, signed: Signed, nowMs: number): boolean {
  const [, at = '', mac = ''] = /^Opsimeter at=(\d{1,16}), mac=([0-9a-f]{64})$/.exec(header ?? '') ?? [];
  const atMs = Number(at);
  if (mac === '' || Math.abs(nowMs - atMs) > VALID_FOR_MS) return false;
  return timingSafeEqual(Buffer.from(mac, 'hex'), Buffer.from(macOf(secret, signed, atMs), 'hex'));
}

function macOf(secret: string, { method, path, content }: Signed, atMs: number): string {
  return createHmac('sha256', secret)
    .update([method, path, content, String(atMs)].join('\n'))
    .digest('hex');
}
