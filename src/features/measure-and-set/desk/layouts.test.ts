import { FOLDED, LEAST, ROWS, type Shares, STACKED_SPEC, sharesOf } from './layouts';

const PRESETS = ['usual', 'look', 'set'] as const;
/** From the least that a desk is given, over common screens to a very tall one. */
const HEIGHTS = [500, 640, 690, 950, 1300, 2000];

const pixels = (shares: Shares, height: number, stacked: number) => {
  const least = LEAST.trace + LEAST.rule + STACKED_SPEC * stacked + LEAST.cards;
  const room = Math.max(height - 16, least);
  return Object.fromEntries(ROWS.map((row) => [row, ((shares[row] ?? 0) * room) / 100]));
};

test.each(PRESETS)('%s shares all of the height, and cuts nothing', (preset) => {
  for (const height of HEIGHTS) {
    for (const stacked of [0, 3]) {
      const shares = sharesOf(preset, height, stacked);
      expect(Object.values(shares).reduce((sum, share) => sum + share, 0)).toBeCloseTo(100, 6);
      const { trace = 0, rule = 0, cards = 0 } = pixels(shares, height, stacked);
      expect(trace).toBeGreaterThanOrEqual(LEAST.trace - 0.01);
      expect(rule).toBeGreaterThanOrEqual(LEAST.rule + STACKED_SPEC * stacked - 0.01);
      // Folded, it is as high as its name; else it is whole.
      if (Math.abs(cards - FOLDED) > 0.01) expect(cards).toBeGreaterThanOrEqual(LEAST.cards - 0.01);
    }
  }
});

test('trace and rule have more while one looks, rule and cards while one sets', () => {
  for (const height of HEIGHTS.slice(2)) {
    const [usual, look, set] = PRESETS.map((preset) => sharesOf(preset, height, 0));
    expect(look?.trace).toBeGreaterThan(look?.rule ?? 0);
    expect(look?.cards).toBeLessThanOrEqual(usual?.cards ?? 0);
    expect(look?.rule).toBeGreaterThanOrEqual(usual?.rule ?? 0);
    expect(set?.trace).toBeLessThanOrEqual(usual?.trace ?? 0);
    expect(set?.rule).toBeGreaterThanOrEqual(usual?.rule ?? 0);
    expect(set?.cards).toBeGreaterThanOrEqual((usual?.cards ?? 0) - 0.01);
  }
});
