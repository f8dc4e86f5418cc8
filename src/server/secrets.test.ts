import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { code } from '../../tests/fixtures/error-code';
import { Secrets } from './secrets';

let folder: string;
let keyPath: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-secrets-'));
  keyPath = join(folder, 'apart', 'key');
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

test('what is sealed is opened by whoever has the key, by nobody else, and never looks the same twice', () => {
  const [secrets, again, other] = [new Secrets(keyPath), new Secrets(keyPath), new Secrets(join(folder, 'other'))];
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (secret) => {
      const sealed = secrets.seal(secret);
      expect(again.open(sealed)).toBe(secret);
      expect(other.open(sealed)).toBeUndefined();
      expect(secrets.seal(secret)).not.toBe(sealed);
      if (secret.length > 3) expect(Buffer.from(sealed.split(':')[2] ?? '', 'base64').includes(secret)).toBe(false);
    }),
  );
});

test('what was changed, by one bit, is not opened', () => {
  const secrets = new Secrets(keyPath);
  const sealed = secrets.seal('a secret');
  const bytes = Buffer.from(sealed.slice('sealed:1:'.length), 'base64');
  for (let bit = 0; bit < 8 * bytes.length; bit++) {
    const changed = Buffer.from(bytes);
    changed[bit >> 3] = (changed[bit >> 3] as number) ^ (1 << (bit & 7));
    expect(secrets.open(`sealed:1:${changed.toString('base64')}`)).toBeUndefined();
  }
  for (const text of ['', 'a secret', 'sealed:1:', 'sealed:1:AAAA', 'sealed:2:AAAA'])
    expect(secrets.open(text)).toBeUndefined();
});

test('the key is for its owner, made once, and never replaced by another', async () => {
  const sealed = new Secrets(keyPath).seal('a');
  expect(statSync(keyPath).mode & 0o777).toBe(0o600);
  expect(statSync(join(folder, 'apart')).mode & 0o777).toBe(0o700);
  const key = readFileSync(keyPath, 'utf8');
  expect(new Secrets(keyPath).open(sealed)).toBe('a');
  expect(readFileSync(keyPath, 'utf8')).toBe(key);
  writeFileSync(keyPath, 'not a key');
  expect(await code(() => new Secrets(keyPath).seal('a'))).toBe('file-unreadable');
  expect(readFileSync(keyPath, 'utf8')).toBe('not a key');
  expect(await code(() => new Secrets(join(keyPath, 'below')).seal('a'))).toMatch(/not-writable|file-unreadable/);
});
