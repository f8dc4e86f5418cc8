/**
 * What is drawn stands out from what it is drawn on, by WCAG 2.2: 3:1 for marks (1.4.11 Non-text Contrast), 4.5:1 for text (1.4.3 Contrast
 * (Minimum)), by its own formula of relative luminance. https://www.w3.org/TR/WCAG22/#dfn-contrast-ratio
 */
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';

const THEMES = ['day', 'night'] as const;
const TOKENS = tokens(readFileSync('src/app/globals.css', 'utf8'));

/** Every colour that draws something, by the grounds it stands on in the rule, the trace, the gauge, the analysis, the charts and *Line up*. */
const MARKS: Record<string, readonly string[]> = {
  // Target windows on the stock; the edge of a pale fill; bars and squares of charts; the edges of fields.
  'stock-3': ['stock-1', 'paper', 'sheet'],
  // Ticks of the stock, integrated so far, fades, markers, edges of the target window.
  'stock-ink': ['stock-1', 'stock-2', 'paper', 'sheet'],
  // Range bars and momentary loudness; also over a waveform.
  'slide-2': ['slide-1', 'stock-1', 'stock-2', 'paper', 'sheet'],
  'slide-ink': ['slide-1', 'stock-1', 'stock-2', 'paper', 'sheet'],
  'breach-line': ['slide-1', 'stock-1', 'stock-2', 'breach-1', 'paper', 'sheet'],
  // Ceilings, play head, cursors.
  ink: ['slide-1', 'stock-1', 'stock-2', 'paper', 'sheet'],
  // What was before; axes.
  mute: ['stock-1', 'stock-2', 'paper', 'sheet'],
};

const TEXTS: Record<string, readonly string[]> = {
  ink: ['paper', 'sheet', 'stock-1', 'stock-2', 'slide-1', 'breach-1', 'advice-1'],
  mute: ['paper', 'sheet', 'stock-1'],
  'stock-ink': ['paper', 'sheet', 'stock-1'],
  'slide-ink': ['paper', 'sheet', 'stock-1', 'slide-1'],
  breach: ['paper', 'sheet', 'breach-1', 'slide-1'],
  advice: ['paper', 'sheet', 'advice-1'],
  'on-action': ['action'],
  'bar-text': ['bar', 'bar-raised'],
};

describe.each([
  ['a mark', MARKS, 3],
  ['text', TEXTS, 4.5],
] as const)('%s stands out from its ground', (_, colours, least) => {
  const pairs = Object.entries(colours).flatMap(([colour, grounds]) =>
    grounds.map((ground) => [colour, ground] as const),
  );
  it.each(pairs)('%s on %s', (colour, ground) => {
    for (const theme of THEMES) {
      const ratio = contrast(hexOf(colour, theme), hexOf(ground, theme));
      expect({ theme, isEnough: ratio >= least, ratio }).toMatchObject({ isEnough: true });
    }
  });
});

it('computes the ratios that the standard names', () => {
  expect(contrast('#ffffff', '#000000')).toBeCloseTo(21, 6);
  // The grey that is widely given as the palest that may be read on white (common practice, no source).
  expect(contrast('#767676', '#ffffff')).toBeGreaterThanOrEqual(4.5);
  expect(contrast('#777777', '#ffffff')).toBeLessThan(4.5);
});

it('draws with colours that there are', () => {
  const families = [...new Set([...TOKENS.keys()].map((name) => name.split('-')[0]))].join('|');
  const used = new RegExp(`\\b(?:fill|stroke|bg|border|text|outline|accent)-((?:${families})(?:-[a-z0-9]+)*)\\b`, 'g');
  const unknown = sources('src').flatMap((path) =>
    [...readFileSync(path, 'utf8').matchAll(used)].flatMap(([, name = '']) =>
      TOKENS.has(name) ? [] : [`${path}: ${name}`],
    ),
  );
  expect(unknown).toEqual([]);
});

function sources(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.tsx'))
    .map((name) => join(folder, name));
}

function tokens(css: string): Map<string, readonly [day: string, night: string]> {
  const found = css.matchAll(/--color-([a-z0-9-]+): (?:light-dark\((#\w{6}), (#\w{6})\)|(#\w{6}));/g);
  return new Map([...found].map(([, name = '', day, night, both = '']) => [name, [day ?? both, night ?? both]]));
}

function hexOf(name: string, theme: (typeof THEMES)[number]): string {
  const colours = TOKENS.get(name);
  if (!colours) throw new Error(`there is no colour ${name}`);
  return colours[THEMES.indexOf(theme)] as string;
}

function contrast(one: string, other: string): number {
  const [darker, lighter] = [relativeLuminance(one), relativeLuminance(other)].sort((a, b) => a - b) as [
    number,
    number,
  ];
  return (lighter + 0.05) / (darker + 0.05);
}

function relativeLuminance(hex: string): number {
  const [red, green, blue] = [1, 3, 5].map((at) => {
    const share = Number.parseInt(hex.slice(at, at + 2), 16) / 255;
    return share <= 0.04045 ? share / 12.92 : ((share + 0.055) / 1.055) ** 2.4;
  }) as [number, number, number];
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue;
}
