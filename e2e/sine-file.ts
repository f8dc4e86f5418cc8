import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ffmpeg } from '../tests/fixtures/ffmpeg';
import type { Desk } from './desk';

/** Five seconds of a sine in two channels, to be dropped. */
export function tone(desk: Desk, name: string, levelDb = -6): { name: string; bytes: Buffer } {
  const path = join(desk.scratch, name);
  ffmpeg('-f', 'lavfi', '-i', `sine=frequency=440:sample_rate=48000:duration=5,volume=${levelDb}dB`, '-ac', '2', path);
  return { name, bytes: readFileSync(path) };
}
