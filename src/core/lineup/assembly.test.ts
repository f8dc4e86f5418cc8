import fc from 'fast-check';
import { cueTime, planAssembly, trackRange } from './assembly';

const CD_HZ = 44_100;
const SECTOR = 588;

test('marks stand on whole sectors of 588 samples, never behind the first sample of their audio', () => {
  const { tracks, frames } = planAssembly(
    [
      { frames: 441_123, gapSeconds: 2 },
      { frames: 300_001, gapSeconds: 0 },
      { frames: 400_000, gapSeconds: 0 },
    ],
    CD_HZ,
  );
  expect(tracks.map(({ startFrame }) => startFrame)).toEqual([0, 529_323, 829_324]);
  expect(tracks.map(({ markFrame }) => markFrame)).toEqual([0, 900 * SECTOR, 1410 * SECTOR]);
  // The pause begins where the sound before has ended; without a gap there is none.
  expect(tracks.map(({ pauseFrame }) => pauseFrame)).toEqual([null, 751 * SECTOR, null]);
  expect(frames).toBe(2091 * SECTOR);
});

test('an overlap fades both programmes for as long as they are heard together, and has no pause', () => {
  const { tracks } = planAssembly(
    [
      { frames: 480_000, gapSeconds: -2.5 },
      { frames: 480_000, gapSeconds: 1 },
      { frames: 480_000, gapSeconds: 7 },
    ],
    48_000,
  );
  expect(tracks.map(({ fadeInFrames, fadeOutFrames }) => [fadeInFrames, fadeOutFrames])).toEqual([
    [0, 120_000],
    [120_000, 0],
    [0, 0],
  ]);
  expect(tracks.map(({ pauseFrame }) => pauseFrame)).toEqual([null, null, 840_320]);
});

test('a rate that 75 does not divide has its marks on the samples themselves', () => {
  const { tracks, frames } = planAssembly(
    [
      { frames: 32_001, gapSeconds: 0 },
      { frames: 32_001, gapSeconds: 0 },
    ],
    32_000,
  );
  expect([tracks[1]?.markFrame, frames]).toEqual([32_001, 64_002]);
});

test('what cannot be laid out is refused: overlaps that are too long, and programmes shorter than a sector', () => {
  expect(() =>
    planAssembly(
      [
        { frames: 441_000, gapSeconds: -11 },
        { frames: 441_000, gapSeconds: 0 },
      ],
      CD_HZ,
    ),
  ).toThrow('programme 1 is shorter than its overlaps');
  expect(() =>
    planAssembly(
      [
        { frames: 100, gapSeconds: 0 },
        { frames: 100, gapSeconds: 0 },
      ],
      CD_HZ,
    ),
  ).toThrow('programme 1 is too short');
});

test('whatever lengths, gaps and overlaps: files of single tracks tile the whole, and every mark holds', () => {
  const members = fc.array(
    fc.record({
      frames: fc.integer({ min: 44_100, max: 400_000 }),
      // The shortest, at 96 kHz, has room for two such overlaps.
      gap: fc.double({ min: -0.22, max: 5, noNaN: true }),
    }),
    { minLength: 1, maxLength: 15 },
  );
  fc.assert(
    fc.property(members, fc.constantFrom(44_100, 48_000, 88_200, 96_000), (list, rate) => {
      const plan = planAssembly(
        list.map(({ frames, gap }) => ({ frames, gapSeconds: gap })),
        rate,
      );
      const cueFrame = rate / 75;
      let at = 0;
      plan.tracks.forEach(({ startFrame, endFrame, markFrame, pauseFrame }, i) => {
        const range = trackRange(plan, i);
        expect(range.startFrame).toBe(at);
        at = range.endFrame;
        expect(markFrame % cueFrame).toBe(0);
        expect(startFrame - markFrame).toBeGreaterThanOrEqual(0);
        expect(startFrame - markFrame).toBeLessThan(cueFrame);
        expect(endFrame - startFrame).toBe(list[i]?.frames);
        // A pause lies in silence alone.
        if (pauseFrame !== null) expect(pauseFrame).toBeGreaterThanOrEqual(plan.tracks[i - 1]?.endFrame as number);
      });
      expect(at).toBe(plan.frames);
      expect(plan.frames % cueFrame).toBe(0);
      expect(plan.frames - (plan.tracks.at(-1)?.endFrame as number)).toBeLessThan(cueFrame);
    }),
  );
});

test('times of a cue sheet count minutes, seconds and 75ths, and go on beyond an hour and 99 minutes', () => {
  expect(cueTime(0, CD_HZ)).toBe('00:00:00');
  expect(cueTime(SECTOR - 1, CD_HZ)).toBe('00:00:00');
  expect(cueTime(74 * SECTOR, CD_HZ)).toBe('00:00:74');
  expect(cueTime(79 * 60 * CD_HZ + 57 * CD_HZ + 74 * SECTOR, CD_HZ)).toBe('79:57:74');
  expect(cueTime(100 * 60 * 48_000, 48_000)).toBe('100:00:00');
});
