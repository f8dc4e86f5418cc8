/** What is written next where a file has missed, from where it landed. Numbers follow from the rules in docs/hand-over.md. */
import { specById } from '../spec/catalogue';
import type { Landing } from '../treatment/plan-levels';
import { USUAL_LIMITER } from '../treatment/steps/limit';
import { gainOnly, type Treatment } from '../treatment/treatment';
import { nextPass, type PassOrder, type Try } from './next-pass';

/** Target −16 LUFS, ceiling −1 dBTP. */
const SPEC = specById('podcast-stereo');
const CODED: PassOrder = { format: { kind: 'mp3' }, spec: SPEC };
const EXACT: PassOrder = { format: { kind: 'wav' }, spec: SPEC };
const LANDING: Landing = { mostGainDb: 10, luPerDb: 1 };

interface Made {
  gainDb?: number;
  /** Of a limiter. */
  ceilingDbtp?: number;
  loudness?: number | null;
  peak?: number | null;
  landing?: Landing | null;
  greatestDb?: number;
}

function made({
  gainDb = 3,
  ceilingDbtp,
  loudness = -16,
  peak = -2,
  landing = LANDING,
  greatestDb = 0,
}: Made = {}): Try {
  const limit = ceilingDbtp === undefined ? null : { ...USUAL_LIMITER, ceilingDbtp };
  const treatment: Treatment = { ...gainOnly(gainDb), limit };
  return { treatment, landing, gainDb, ceilingDbtp: ceilingDbtp ?? null, loudness, peak, greatestDb };
}

const next = (order: PassOrder, ...tries: Made[]) => {
  const found = nextPass(order, tries.map(made));
  return (
    found && {
      gainDb: found.treatment.gainDb,
      ceilingDbtp: found.treatment.limit?.ceilingDbtp ?? null,
      landing: found.landing,
    }
  );
};

describe('loudness', () => {
  test.each([
    ['a file that is not coded', EXACT, 0.05, 0.06],
    ['one that is', CODED, 0.1, 0.11],
  ])('%s is moved once it is farther from its target than is allowed, and not before', (_, order, near, far) => {
    expect(next(order, { loudness: -16 - near + 0.001, peak: -1.05 })).toBeUndefined();
    expect(next(order, { loudness: -16 + near - 0.001, peak: -1.05 })).toBeUndefined();
    expect(next(order, { loudness: -16 - far })?.gainDb).toBeCloseTo(3 + far, 6);
    expect(next(order, { loudness: -16 + far })?.gainDb).toBeCloseTo(3 - far, 6);
  });

  test('a limiter brings less than a decibel for each of gain, and the gain goes as much farther', () => {
    expect(next(EXACT, { ceilingDbtp: -1, loudness: -16.5, landing: { mostGainDb: 10, luPerDb: 0.5 } })?.gainDb).toBe(
      4,
    );
  });

  test('no gain goes beyond the most', () => {
    expect(next(EXACT, { loudness: -20, landing: { mostGainDb: 4.5, luPerDb: 1 } })?.gainDb).toBe(4.5);
    expect(next(EXACT, { loudness: -20, gainDb: 4.5, landing: { mostGainDb: 4.5, luPerDb: 1 } })).toBeUndefined();
  });

  test('levels that somebody has set are not moved, nor is what has no loudness', () => {
    expect(next(EXACT, { loudness: -20, landing: null })).toBeUndefined();
    expect(next(EXACT, { loudness: null })).toBeUndefined();
    expect(next({ ...EXACT, spec: specById('archive') }, { loudness: -40 })).toBeUndefined();
  });
});

describe('peaks that coding has lifted', () => {
  test('a limiter goes down by as much and a little more, and the gain gives back what that takes', () => {
    const found = next(CODED, { ceilingDbtp: -1, peak: -0.6, landing: { mostGainDb: 10, luPerDb: 0.5 } });
    // 0.4 dB over and a margin of 0.05; half of that is lost, which a decibel of gain gives back by half.
    expect(found?.ceilingDbtp).toBeCloseTo(-1.45, 9);
    expect(found?.gainDb).toBeCloseTo(3.45, 6);
    expect(found?.landing?.mostGainDb).toBeCloseTo(9.55, 9);
  });

  test('each time the margin grows threefold, to the most', () => {
    const over = { ceilingDbtp: -1, peak: -0.9, landing: { mostGainDb: 10, luPerDb: 1 } };
    const ceilings = [1, 2, 3, 4].map(
      (count) => next(CODED, ...Array.from({ length: count }, () => over))?.ceilingDbtp,
    );
    [-1.15, -1.25, -1.55, -1.55].forEach((wanted, i) => {
      expect(ceilings[i]).toBeCloseTo(wanted, 9);
    });
  });

  test('without a limiter, and none allowed, all of it is turned down', () => {
    expect(next(CODED, { peak: -0.5 })).toMatchObject({ gainDb: 2.45, ceilingDbtp: null });
  });

  test('one that is allowed, and was not needed, takes it', () => {
    const found = next(CODED, { peak: -0.5, landing: { mostGainDb: 5, luPerDb: 1, mayLimitDb: 3 } });
    // Peaks stood 2 dB below the ceiling; the limiter is set 0.55 dB below them.
    expect(found?.ceilingDbtp).toBeCloseTo(-3.55, 9);
    expect(found?.gainDb).toBe(3);
    expect(found?.landing).toEqual({ mostGainDb: expect.closeTo(5.45, 9), luPerDb: 1, maxReductionDb: 3 });
  });

  test('it takes no more than is allowed, and goes on to the target as far as that', () => {
    const landing = { mostGainDb: 3, luPerDb: 1, mayLimitDb: 1 };
    expect(next(CODED, { peak: -0.5, loudness: -20, landing })?.gainDb).toBeCloseTo(3.45, 9);
    expect(next(CODED, { peak: -0.5, loudness: -16.2, landing })?.gainDb).toBeCloseTo(3.2, 9);
    expect(next(CODED, { peak: -0.5, loudness: -15, landing })?.gainDb).toBe(3);
  });

  test('the limiter that is set up otherwise is that', () => {
    const limiter = { ...USUAL_LIMITER, link: 0.5 };
    const landing = { mostGainDb: 5, luPerDb: 1, mayLimitDb: 3 };
    const found = nextPass({ ...CODED, limiter }, [made({ peak: -0.5, landing })]);
    expect(found?.treatment.limit).toMatchObject({ link: 0.5 });
  });

  test('where levels are as set, the ceiling alone goes down', () => {
    const found = next(CODED, { ceilingDbtp: -1, peak: -0.6, loudness: -20, landing: null });
    expect(found).toEqual({ gainDb: 3, ceilingDbtp: expect.closeTo(-1.45, 9), landing: null });
    expect(next(CODED, { peak: -0.5, landing: null })).toBeUndefined();
  });

  test('what is not coded is as its limiter has left it', () => {
    expect(next(EXACT, { ceilingDbtp: -1, peak: -0.9 })).toBeUndefined();
  });
});

describe('what a limiter may take', () => {
  test('taken beyond it, gain goes down by as much', () => {
    const landing = { mostGainDb: 10, luPerDb: 0.5, maxReductionDb: 3 };
    expect(next(EXACT, { ceilingDbtp: -1, greatestDb: 3.2, landing })?.gainDb).toBeCloseTo(2.8, 9);
    expect(next(EXACT, { ceilingDbtp: -1, greatestDb: 3.004, landing })).toBeUndefined();
  });
});

describe('what a coder turns down', () => {
  test('is given back to gain and ceiling alike, as far as there is room', () => {
    const landing = { mostGainDb: 3, luPerDb: 0.5 };
    const found = next(CODED, { ceilingDbtp: -1.5, loudness: -16.26, peak: -1.7, landing });
    expect(found).toEqual({
      gainDb: 3.26,
      ceilingDbtp: expect.closeTo(-1.24, 9),
      landing: { mostGainDb: 3.26, luPerDb: 0.5 },
    });
    // 0.2 dB of room below the ceiling, and 0.05 of that is kept.
    expect(next(CODED, { ceilingDbtp: -1.5, loudness: -16.26, peak: -1.2, landing })?.gainDb).toBeCloseTo(3.15, 9);
    expect(next(CODED, { ceilingDbtp: -1.5, loudness: -16.26, peak: -1.04, landing })).toBeUndefined();
  });

  test('no ceiling goes above full scale', () => {
    const landing = { mostGainDb: 3, luPerDb: 1 };
    const order = { ...CODED, spec: { ...SPEC, peak: { ...SPEC.peak, ceiling: 0 } } };
    expect(next(order, { ceilingDbtp: -0.1, loudness: -17, peak: -2, landing })?.ceilingDbtp).toBeCloseTo(0, 9);
  });

  test('nothing is given back to what is not coded', () => {
    expect(next(EXACT, { loudness: -17, peak: -3, landing: { mostGainDb: 3, luPerDb: 1 } })).toBeUndefined();
  });
});

describe('how often', () => {
  test('four times, six where it is coded', () => {
    const soft = { loudness: -18 };
    expect(next(EXACT, soft, soft, soft)).toBeDefined();
    expect(next(EXACT, soft, soft, soft, soft)).toBeUndefined();
    const loud = { ceilingDbtp: -1, peak: -0.5 };
    expect(next(CODED, loud, loud, loud, loud, loud)).toBeDefined();
    expect(next(CODED, loud, loud, loud, loud, loud, loud)).toBeUndefined();
  });

  test('the last time of what is coded is not spent on loudness', () => {
    const soft = { loudness: -18 };
    expect(next(CODED, soft, soft, soft, soft)).toBeDefined();
    expect(next(CODED, soft, soft, soft, soft, soft)).toBeUndefined();
  });

  test('it goes back to the best that was inside', () => {
    const over = { ceilingDbtp: -1, peak: -0.5 };
    const tries = [
      { ...over, peak: -1.2, loudness: -16.4, gainDb: 1 },
      { ...over, peak: -1.1, loudness: -15.8, gainDb: 2 },
      over,
      over,
      over,
    ];
    expect(next(CODED, ...tries)?.gainDb).toBe(2);
  });
});
