/** A span through a codec: as long as it was, where it was, and nearly what it was. */

import { music } from '@/cli/demo/synth';
import { gainOnly } from '@/core/treatment/treatment';
import { decodeArrays } from '@/formats/array-bundle';
import { PREVIEW_CODECS } from '@/formats/preview-codecs';
import { lossyPreview } from '@/server/measure/lossy-preview';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

const host = new TestServer();
afterAll(() => host.remove());

test.each(PREVIEW_CODECS)('$name', async ({ id }) => {
  const rate = 44_100;
  const song = music(4, rate, [{ startSeconds: 0, level: 0.5, drums: 0.5 }], 3);
  const { programmeId } = await host.measured(wavOf(song, { sampleRateHz: rate }), `${id}.wav`);
  const span = { startFrame: 30_000, frames: 100_000 };
  const bytes = await lossyPreview(host.server, programmeId, gainOnly(-6), id, span);
  const heard = decodeArrays(bytes.buffer as ArrayBuffer).arrays.channel0 as Float32Array;
  expect(heard.length).toBe(span.frames);
  const treated = (song[0] as Float32Array).slice(30_000, 130_000).map((x) => x * 10 ** (-6 / 20));
  const energy = (samples: Float32Array) => samples.reduce((sum, x) => sum + x * x, 0);
  const left = energy(treated.map((x, n) => x - (heard[n] ?? Number.NaN)));
  // In step to the sample, what is lost is well under what is there.
  expect(10 * Math.log10(left / energy(treated))).toBeLessThan(-12);
  expect(left).toBeGreaterThan(0);
  expect(host.files().filter((name) => name.endsWith('.part'))).toEqual([]);
});
