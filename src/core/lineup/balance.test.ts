import fc from 'fast-check';
import { code } from '../../../tests/fixtures/error-code';
import { specById } from '../spec/catalogue';
import { dbToPower } from '../units/decibel';
import { type BalancedMember, solveBalance } from './balance';

/** A steady piece: so loud, with peaks so far above, and a limiter that leaves so much of each decibel above the ceiling. */
interface Piece {
  lufs: number;
  peakAboveLu: number;
  left: number | null;
}

const SPEC = specById('ebu-r128');
const CEILING = SPEC.peak.ceiling;
/** Of a steady tone, by BS.1770: L = −0.691 + 10 log10 of the weighted power. */
const powerOf = (lufs: number) => dbToPower(lufs + 0.691);

function membersOf(pieces: readonly Piece[]) {
  return async (gainsDb: readonly number[]): Promise<BalancedMember[]> =>
    pieces.map(({ lufs, peakAboveLu, left }, i) => {
      const gainDb = gainsDb[i] as number;
      const over = Math.max(0, lufs + gainDb + peakAboveLu - CEILING);
      const reached = lufs + gainDb - (left === null ? 0 : over * (1 - left));
      const truePeakDbtp = lufs + gainDb + peakAboveLu - (left === null ? 0 : over);
      return {
        title: `piece ${i}`,
        readings: { integratedLufs: reached, truePeakDbtp, samplePeakDbfs: truePeakDbtp, rmsDbfs: reached },
        isLimited: left !== null,
        weightedPower: new Float64Array(600).fill(powerOf(reached)),
        ...{ truePeakDbtp, sampleRateHz: 48_000, frames: 60 * 48_000, gapSeconds: 0 },
      };
    });
}

const hundredths = (from: number, to: number) =>
  fc.integer({ min: 100 * from, max: 100 * to }).map((value) => value / 100);
const pieces = fc.array(
  fc.record({
    lufs: hundredths(-45, -8),
    peakAboveLu: hundredths(3, 24),
    left: fc.constantFrom(null, null, 0.9, 0.5),
  }),
  { minLength: 1, maxLength: 6 },
);

test('each piece meets the target, or its peak the ceiling, and then it is named', async () => {
  await fc.assert(
    fc.asyncProperty(pieces, async (set) => {
      const { gainsDb, stoppedBy } = await solveBalance(
        set.map(() => 0),
        membersOf(set),
        'each-at-target',
        SPEC,
      );
      for (const { title, readings } of await membersOf(set)(gainsDb)) {
        const off = (readings.integratedLufs as number) - -23;
        if (stoppedBy.includes(title)) {
          expect(off).toBeLessThan(0);
          expect(readings.truePeakDbtp).toBeLessThanOrEqual(CEILING + 1e-9);
          expect(readings.truePeakDbtp).toBeGreaterThan(CEILING - 0.02);
        } else expect(Math.abs(off)).toBeLessThan(0.04);
      }
    }),
    { numRuns: 60 },
  );
});

test('one gain for all keeps the balance: no piece is above the ceiling, and the whole is as near as that lets it', async () => {
  await fc.assert(
    fc.asyncProperty(
      pieces,
      fc.constantFrom('whole-at-target' as const, 'loudest-at-target' as const),
      async (set, b) => {
        const alone = set.map((piece) => ({ ...piece, left: null }));
        const { gainsDb, stoppedBy } = await solveBalance(
          alone.map((_, i) => i),
          membersOf(alone),
          b,
          SPEC,
        );
        expect(new Set(gainsDb).size).toBe(1);
        const members = await membersOf(alone)(gainsDb);
        expect(Math.max(...members.map(({ truePeakDbtp }) => truePeakDbtp as number))).toBeLessThanOrEqual(
          CEILING + 1e-9,
        );
        const levels = members.map(({ readings }) => readings.integratedLufs as number);
        if (b === 'loudest-at-target' && stoppedBy.length === 0)
          expect(Math.abs(Math.max(...levels) + 23)).toBeLessThan(0.04);
      },
    ),
    { numRuns: 60 },
  );
});

test('a limiter that takes all that a gain brings does not have it go on, and is named', async () => {
  const set = [{ lufs: -30, peakAboveLu: 25, left: 0 }];
  const { gainsDb, stoppedBy } = await solveBalance([0], membersOf(set), 'each-at-target', SPEC);
  expect(stoppedBy).toEqual(['piece 0']);
  expect(gainsDb[0]).toBeLessThan(12);
});

test('what has no target or no loudness is told', async () => {
  const set = [{ lufs: -30, peakAboveLu: 10, left: null }];
  const noTarget = () => solveBalance([0], membersOf(set), 'each-at-target', specById('archive'));
  expect(await code(noTarget)).toBe('no-target');
  const silent = async (gainsDb: readonly number[]) =>
    (await membersOf(set)(gainsDb)).map((member) => ({
      ...member,
      weightedPower: new Float64Array(600),
      readings: { ...member.readings, integratedLufs: null },
    }));
  expect(await code(() => solveBalance([0], silent, 'each-at-target', SPEC))).toBe('nothing-to-measure');
});
