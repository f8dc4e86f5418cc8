import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { basename, dirname, join, resolve } from 'node:path';
import { fileError } from '@/workers/node/file-bytes';
import { newId } from './ids';

const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;
const CIPHER = 'aes-256-gcm';
const SEALED = 'sealed:1:';

/** OPSIMETER_KEY_FILE, or a file of whoever runs the app; never in the data folder, whose copies would carry it along. */
function keyFile(): string {
  const config = process.env.XDG_CONFIG_HOME || join(homedir(), '.config');
  return resolve(/*turbopackIgnore: true*/ process.env.OPSIMETER_KEY_FILE || join(config, 'opsimeter', 'key'));
}

/**
 * Seals what nobody may read who only has the database: AES-256 in Galois/Counter Mode (NIST SP 800-38D), a nonce of its own for each, under a
 * key that lies in a file of its own.
 */
export class Secrets {
  readonly #keyPath: string;
  #key: Buffer | undefined;

  constructor(keyPath = keyFile()) {
    this.#keyPath = keyPath;
  }

  /** Throws `not-writable` or `file-unreadable` of the key. */
  seal(secret: string): string {
    const nonce = randomBytes(NONCE_BYTES);
    const cipher = createCipheriv(CIPHER, this.#theKey(), nonce);
    const sealed = Buffer.concat([nonce, cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]);
    return SEALED + sealed.toString('base64');
  }

  /** Undefined where it was sealed with another key, or is damaged. Throws as `seal` does. */
  open(sealed: string): string | undefined {
    const bytes = Buffer.from(sealed.slice(SEALED.length), 'base64');
    if (!isSealed(sealed) || bytes.length < NONCE_BYTES + TAG_BYTES) return undefined;
    const decipher = createDecipheriv(CIPHER, this.#theKey(), bytes.subarray(0, NONCE_BYTES));
    decipher.setAuthTag(bytes.subarray(-TAG_BYTES));
    try {
      const opened = [decipher.update(bytes.subarray(NONCE_BYTES, -TAG_BYTES)), decipher.final()];
      return Buffer.concat(opened).toString('utf8');
    } catch {
      return undefined;
    }
  }

  #theKey(): Buffer {
    this.#key ??= readKey(this.#keyPath) ?? makeKey(this.#keyPath);
    return this.#key;
  }
}

/** Whether a value is one that was sealed; earlier versions stored them as they are. */
function isSealed(value: string): boolean {
  return value.startsWith(SEALED);
}

function readKey(path: string): Buffer | undefined {
  try {
    const key = Buffer.from(readFileSync(path, 'utf8').trim(), 'hex');
    if (key.length === KEY_BYTES) return key;
    throw new Error(`it holds no key of ${8 * KEY_BYTES} bits`);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined;
    throw fileError(error, basename(path), 'file-unreadable');
  }
}

/** A new key, for its owner alone. Where two processes make one at once, both have that of the first. */
function makeKey(path: string): Buffer {
  const part = `${path}.${newId()}`;
  try {
    mkdirSync(dirname(path), { recursive: true, mode: 0o700 });
    writeFileSync(part, `${randomBytes(KEY_BYTES).toString('hex')}\n`, { mode: 0o600, flush: true });
    try {
      linkSync(part, path);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    }
    return readKey(path) as Buffer;
  } catch (error) {
    throw fileError(error, path, 'not-writable');
  } finally {
    rmSync(part, { force: true });
  }
}
