/** Colours as the page's tokens have them now. */
export const COLOUR_NAMES = [
  'paper',
  'sheet',
  'ink',
  'mute',
  'hair',
  'stock-1',
  'stock-2',
  'stock-3',
  'stock-ink',
  'slide-1',
  'slide-2',
  'slide-ink',
  'breach-line',
  'breach-1',
] as const;

export type Colours = Record<(typeof COLOUR_NAMES)[number], string>;
