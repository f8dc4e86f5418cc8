import { closeSync, fstatSync, mkdirSync, mkdtempSync, openSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { planBundle } from '@/formats/array-bundle';
import { BundleFile, BundleWriter } from './bundle-file';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-bundle-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const plan = () => planBundle({ name: 'kept' }, [{ name: 'levels', type: 'f32', length: 4 }]);

test('it is there whole, and read by parts', () => {
  const path = join(folder, 'a.bin');
  const writer = new BundleWriter(path, plan());
  writer.put('levels', Float32Array.of(3, 4), 2);
  writer.put('levels', Float32Array.of(1, 2), 0);
  expect(readdirSync(folder)).not.toContain('a.bin');
  writer.finish();
  const file = new BundleFile(path);
  const read = new Float32Array(3);
  file.read('levels', read, 1);
  file.close();
  expect([...read]).toEqual([2, 3, 4]);
});

test('one that could not be given its name leaves nothing, and closes no file of anybody else’s', () => {
  const path = join(folder, 'taken');
  mkdirSync(path);
  writeFileSync(join(path, 'x'), '');
  const writer = new BundleWriter(path, plan());
  expect(() => writer.finish()).toThrow();
  // The first number that is free is the one that it had.
  const other = openSync(join(path, 'x'), 'r');
  writer.abandon();
  writer.abandon();
  expect(fstatSync(other).isFile()).toBe(true);
  closeSync(other);
  expect(readdirSync(folder)).toEqual(['taken']);
});
