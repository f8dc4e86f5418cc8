/** The panels of the desk that stand above each other; the last holds three beside each other. */
export const ROWS = ['trace', 'rule', 'cards'] as const;
export const CARDS = ['treatment', 'readings', 'places'] as const;
type Row = (typeof ROWS)[number];
export type PanelId = Exclude<Row, 'cards'> | (typeof CARDS)[number];

/** In percent, by panel, as the library has it. */
export type Shares = Record<string, number>;

/** What a panel needs so that nothing of it is cut, in pixels. */
export const LEAST: Readonly<Record<Row, number>> = { trace: 222, rule: 176, cards: 234 };
/** What rule and cards can fill: the rule at twice its size. */
const MOST = { rule: 306, cards: 260 };
/** A stacked spec takes so much more of the rule. */
export const STACKED_SPEC = 22;
/** A panel that is folded shows its name. */
export const FOLDED = 28;
/** Between two panels, where the border is taken hold of. */
export const BORDER = 8;

/** `look`: trace and gauge large. `set`: rule and treatment large. `usual`: the trace takes what is left. */
export type Preset = 'usual' | 'look' | 'set';

/** Over so many pixels, the cards stay while one looks. */
const TALL = 900;

/** How a desk of some height is shared among its rows. */
export function sharesOf(preset: Preset, height: number, stackedSpecs: number): Shares {
  const stacked = stackedSpecs * STACKED_SPEC;
  const room = Math.max(height - 2 * BORDER, LEAST.trace + LEAST.rule + stacked + LEAST.cards);
  const rows = rowsOf(preset, room, stacked);
  return Object.fromEntries(ROWS.map((row) => [row, (100 * rows[row]) / room]));
}

/** The trace has what the others leave: they get nothing that they can't fill. */
function rowsOf(preset: Preset, room: number, stacked: number): Record<Row, number> {
  const leastRule = LEAST.rule + stacked;
  const between = (least: number, share: number, most: number) => Math.max(least, Math.min(share * room, most));
  const ruleOf = (share: number) => between(leastRule, share, MOST.rule + 2 * stacked);
  switch (preset) {
    case 'usual': {
      const [rule, cards] = [ruleOf(0.2), between(LEAST.cards, 0.25, MOST.cards)];
      return { trace: room - rule - cards, rule, cards };
    }
    case 'look': {
      const [rule, cards] = [ruleOf(0.24), room >= TALL ? LEAST.cards : FOLDED];
      return { trace: room - rule - cards, rule, cards };
    }
    case 'set': {
      const left = room - LEAST.trace;
      const rule = Math.max(leastRule, Math.min(left - LEAST.cards, MOST.rule + 2 * stacked));
      const cards = Math.max(LEAST.cards, Math.min(left - rule, MOST.cards));
      return { trace: room - rule - cards, rule, cards };
    }
  }
}
