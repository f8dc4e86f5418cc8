/**
 * The spectrum in thirds of an octave against SoX, which cuts each band out with a filter of its own; and what it says of a treatment against
 * the file that this treatment is written to.
 */
import { writeFileSync } from 'node:fs';
import { music } from '@/cli/demo/synth';
import { thirdOctaves } from '@/core/inspection/third-octaves';
import { type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import { bandLevels } from '@/workers/node/band-levels';
import { unprepared } from '@/workers/node/prepare-file';
import { renderFile } from '@/workers/node/render-file';
import { at } from '../fixtures/audition';
import { sox, soxRmsDb } from '../fixtures/ffmpeg';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const SECONDS = 8;
const SECTIONS = [
  { startSeconds: 0, level: 0.1, drums: 0 },
  { startSeconds: 3, level: 1.1, drums: 1 },
];

function bandsOf(path: string, treatment: Treatment, startFrame = 0, frames = Number.MAX_SAFE_INTEGER) {
  return bandLevels({
    kind: 'bands',
    source: unprepared(path),
    fileName: path,
    layoutId: null,
    limitingPath: treatment.limit && `${path}.limiting`,
    treatment,
    startFrame,
    frames,
  });
}

const NOTHING = treatmentSchema.parse({ gainDb: 0 });

beforeAll(() => writeFileSync(at('music.wav'), wavOf(music(SECONDS, RATE, SECTIONS, 11), { sampleRateHz: RATE })));

test('each band is as strong as SoX finds it', async () => {
  sox('-n', '-r', `${RATE}`, '-b', '24', at('noise.wav'), 'synth', '20', 'pinknoise', 'pinknoise', 'gain', '-3');
  const { before, after, bandsHz, pair } = await bandsOf(at('noise.wav'), NOTHING);
  expect(after).toEqual(before);
  expect(pair).not.toBeNull();
  for (const { nominalHz, lowHz, highHz } of thirdOctaves(RATE).filter((_, i) => i >= 5 && i % 3 === 2)) {
    // SoX's filters are some 30,000 taps long at most: low bands need a low rate. What it calls RMS is of both channels, as a mean.
    const rate = nominalHz < 500 ? ['rate', '-v', '3000'] : [];
    const cut = ['sinc', '-a', '100', '-t', `${0.02 * lowHz}`, `${lowHz}-${highHz}`];
    const soxDb = soxRmsDb(at('noise.wav'), ...rate, ...cut) + 10 * Math.log10(2);
    expect(Math.abs((before.bandsDbfs[bandsHz.indexOf(nominalHz)] as number) - soxDb)).toBeLessThan(0.15);
  }
});

test('what is said of a treatment is what the file written with it has', async () => {
  const treatment = treatmentSchema.parse({
    gainDb: 8,
    limit: { ceilingDbtp: -2 },
    outputGainDb: -1.5,
    fadeIn: { frames: RATE, shape: 'linear' },
  });
  await renderFile(at('music.wav'), at('written.wav'), { treatment, bitDepth: 32 });
  const said = await bandsOf(at('music.wav'), treatment);
  const written = await bandsOf(at('written.wav'), NOTHING);
  for (const [band, level] of written.before.bandsDbfs.entries()) {
    expect(Math.abs(level - (said.after.bandsDbfs[band] as number))).toBeLessThan(0.02);
  }
  said.correlation.forEach((value, i) => {
    expect(value).toBeCloseTo(written.correlation[i] as number, 2);
  });
  // The limiter has taken something, which is to be seen.
  expect(said.before.bandsDbfs.some((level, band) => level + 6.5 - (said.after.bandsDbfs[band] as number) > 0.3)).toBe(
    true,
  );
});

test('a span is read alone, and a long programme at places spread over it', async () => {
  const tones = Float32Array.from({ length: 90 * 8000 }, (_, n) =>
    Math.sin((2 * Math.PI * (n < 45 * 8000 ? 500 : 2000) * n) / 8000),
  );
  writeFileSync(at('long.wav'), wavOf([tones], { sampleRateHz: 8000 }));
  const strongest = ({ before, bandsHz }: Awaited<ReturnType<typeof bandsOf>>) =>
    bandsHz[before.bandsDbfs.indexOf(Math.max(...before.bandsDbfs))];
  const [first, second, whole] = [
    await bandsOf(at('long.wav'), NOTHING, 8000, 16_000),
    await bandsOf(at('long.wav'), NOTHING, 50 * 8000, 1000),
    await bandsOf(at('long.wav'), NOTHING),
  ];
  expect([strongest(first), strongest(second)]).toEqual([500, 2000]);
  expect([first.isWhole, second.isWhole, whole.isWhole]).toEqual([true, true, false]);
  expect(second.startFrames).toHaveLength(1);
  expect(whole.startFrames).toHaveLength(256);
  const levelAt = (hz: number) => whole.before.bandsDbfs[whole.bandsHz.indexOf(hz)] as number;
  // Each is heard half of the time.
  for (const hz of [500, 2000]) expect(levelAt(hz)).toBeCloseTo(-6.02, 1);
  expect(whole.pair).toBeNull();
  expect(whole.correlation).toHaveLength(0);
});

test('a programme shorter than a block has no bands', async () => {
  writeFileSync(at('short.wav'), wavOf([new Float32Array(4000)], { sampleRateHz: RATE }));
  expect((await bandsOf(at('short.wav'), NOTHING)).startFrames).toHaveLength(0);
});
