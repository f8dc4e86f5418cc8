import fc from 'fast-check';
import { BandSums, bandBlockFrames, blockPlaces, thirdOctaves } from './third-octaves';

const RATE = 48_000;
const FRAMES = bandBlockFrames(RATE);

const sine = (hz: number, amplitude = 1) =>
  Float32Array.from({ length: FRAMES }, (_, n) => amplitude * Math.sin((2 * Math.PI * hz * n) / RATE));

/** White noise, the same each time. */
function noise(seed: number): Float32Array {
  let state = seed;
  return Float32Array.from({ length: FRAMES }, () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return (state / 2 ** 32 - 0.5) / 2;
  });
}

test('bands lie side by side around 1 kHz, a tenth of a decade wide (IEC 61260-1, from memory)', () => {
  const bands = thirdOctaves(RATE);
  expect(bands).toHaveLength(31);
  expect(bands[17]).toMatchObject({ nominalHz: 1000 });
  expect(bands[17]?.lowHz).toBeCloseTo(891.25, 2);
  expect(bands[17]?.highHz).toBeCloseTo(1122.02, 2);
  for (const [i, { lowHz, highHz, nominalHz }] of bands.entries()) {
    expect(highHz / lowHz).toBeCloseTo(10 ** 0.1, 9);
    expect(bands[i + 1]?.lowHz ?? highHz).toBeCloseTo(highHz, 6);
    // A nominal centre is within 1.5 % of the exact one.
    expect(Math.abs(nominalHz / Math.sqrt(lowHz * highHz) - 1)).toBeLessThan(0.015);
  }
  expect(thirdOctaves(44_100).at(-1)?.nominalHz).toBe(16_000);
  expect(thirdOctaves(8000).at(-1)?.nominalHz).toBe(3150);
});

test.each([25, 100, 1000, 8000])(
  'a full-scale sine at %i Hz has −3.01 dBFS in its band, and nothing two bands away',
  (hz) => {
    const sums = new BandSums(RATE, 1);
    sums.add([sine(hz)]);
    const { bandsDbfs } = sums.levelsDbfs();
    const own = thirdOctaves(RATE).findIndex(({ nominalHz }) => nominalHz === hz);
    // The lowest bands are two bins wide: some of the window's width lies beyond their edges, and its side lobes reach further.
    const isLow = hz < 50;
    expect(bandsDbfs[own]).toBeCloseTo(-3.01, isLow ? 0 : 1);
    for (const [band, level] of bandsDbfs.entries())
      if (Math.abs(band - own) > 1) expect(level).toBeLessThan(isLow ? -45 : -60);
  },
);

test('what is below the lowest band is told apart, and silence has the floor', () => {
  const sums = new BandSums(RATE, 1);
  sums.add([sine(9)]);
  const { belowDbfs, bandsDbfs } = sums.levelsDbfs();
  expect(belowDbfs).toBeCloseTo(-3.01, 1);
  expect(Math.max(...bandsDbfs.slice(2))).toBeLessThan(-60);
  const silent = new BandSums(RATE, 2);
  silent.add([new Float32Array(FRAMES), new Float32Array(FRAMES)]);
  expect(Array.from(silent.levelsDbfs().bandsDbfs)).toEqual(Array(31).fill(-200));
});

test('white noise rises by 1 dB a band, and all bands together are its mean square', () => {
  const sums = new BandSums(RATE, 1);
  let squares = 0;
  for (let i = 0; i < 40; i++) {
    const samples = noise(i + 1);
    sums.add([samples]);
    for (const x of samples) squares += x * x;
  }
  const { bandsDbfs } = sums.levelsDbfs();
  for (let band = 12; band < 30; band++)
    expect((bandsDbfs[band + 1] as number) - (bandsDbfs[band] as number)).toBeCloseTo(1, 0);
  const whole = bandsDbfs.reduce((sum, level) => sum + 10 ** (level / 10), 0);
  const share = (thirdOctaves(RATE).at(-1)?.highHz ?? 0) / (RATE / 2);
  expect(10 * Math.log10(whole / share)).toBeCloseTo(10 * Math.log10(squares / (40 * FRAMES)), 1);
});

test('two channels are added up, and their product tells how they stand to each other', () => {
  const sums = new BandSums(RATE, 2);
  const left = sine(1000);
  sums.add([left, left.map((x) => -0.5 * x)]);
  expect(sums.levelsDbfs().bandsDbfs[17]).toBeCloseTo(-3.01 + 10 * Math.log10(1.25), 1);
  const pair = sums.pair();
  const [l, r, product] = [pair?.left[17] as number, pair?.right[17] as number, pair?.product[17] as number];
  expect(l / r).toBeCloseTo(4, 6);
  expect(product / Math.sqrt(l * r)).toBeCloseTo(-1, 6);
  expect(new BandSums(RATE, 1).pair()).toBeNull();
});

test('blocks cover a short stretch, each over the next, and are spread evenly over a long one', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 500_000 }),
      fc.integer({ min: 1, max: 500_000 }),
      fc.integer({ min: 0, max: 10_000 }),
      (startFrame, length, rest) => {
        const block = 16_384;
        const endFrame = startFrame + length;
        const frames = endFrame + rest;
        const { places, isWhole } = blockPlaces({ startFrame, endFrame }, frames, block, 16);
        if (frames < block) return expect(places).toEqual([]);
        expect(places.length).toBeLessThanOrEqual(16);
        for (const place of places) {
          expect(place).toBeGreaterThanOrEqual(0);
          expect(place + block).toBeLessThanOrEqual(frames);
        }
        if (length >= block) {
          expect(places[0]).toBe(startFrame);
          expect(places.at(-1)).toBe(endFrame - block);
        }
        const gaps = places.slice(1).map((place, i) => place - (places[i] as number));
        if (isWhole) for (const gap of gaps) expect(gap).toBeLessThanOrEqual(block / 4);
      },
    ),
  );
});
