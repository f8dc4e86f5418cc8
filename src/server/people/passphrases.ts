import { hash, verify } from '@node-rs/argon2';

/** Argon2id with what OWASP's Password Storage Cheat Sheet asks for at least (19 MiB, two passes, one lane; from memory). */
const COST = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

/** Long enough that guessing is hopeless; NIST SP 800-63B asks for 8, and no rules of composition (from memory). */
export const LEAST_CHARACTERS = 12;
export const MOST_CHARACTERS = 200;

/** Ways to write the same characters are one passphrase. */
const plain = (passphrase: string) => passphrase.normalize('NFKC');

export function hashPassphrase(passphrase: string): Promise<string> {
  return hash(plain(passphrase), COST);
}

/** What is held against a guess where there is nobody of that name, so that it takes as long. */
let nobody: Promise<string> | undefined;

/** Whether it is the passphrase; of nobody it never is. */
export async function isPassphrase(hashed: string | undefined, guess: string): Promise<boolean> {
  nobody ??= hashPassphrase('nobody has this passphrase');
  const isRight = await verify(hashed ?? (await nobody), plain(guess)).catch(() => false);
  return hashed !== undefined && isRight;
}
