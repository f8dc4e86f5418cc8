import { createHash, randomBytes } from 'node:crypto';

/** 256 bits that nobody guesses: what a browser or a program shows to be known again. Only its hash is stored. */
export function newToken(): string {
  return randomBytes(32).toString('base64url');
}

/** Tokens are random, so that a fast hash does: there is nothing to guess from it. */
export function hashToken(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}
