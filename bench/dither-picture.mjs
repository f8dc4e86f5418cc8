/** Draws what each dither's error has in its spectrum, at 44.1 kHz, into docs/dither.svg: node bench/dither-picture.mjs. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';

const RATE = 44_100;
const [WIDTH, HEIGHT, LEFT, TOP] = [720, 300, 48, 16];
const [LEAST_HZ, MOST_HZ, LEAST_DB, MOST_DB] = [100, RATE / 2, -40, 20];
const COLOURS = { tpdf: '#9b8bc4', shaped: '#0f5c66' };
const NAMES = { tpdf: 'triangular', shaped: 'shaped' };

const x = (hz) => LEFT + ((WIDTH - LEFT - 8) * Math.log(hz / LEAST_HZ)) / Math.log(MOST_HZ / LEAST_HZ);
const y = (db) => TOP + ((HEIGHT - TOP - 28) * (MOST_DB - db)) / (MOST_DB - LEAST_DB);

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
try {
  const { errorSpectrum } = await importTs('bench/dither-picture.ts', folder);
  const curves = ['tpdf', 'shaped'].map((dither) => {
    const lines = errorSpectrum(dither);
    const points = lines
      .map((db, k) => [(k * RATE) / 2 / lines.length, db])
      .filter(([hz]) => hz >= LEAST_HZ)
      .map(([hz, db]) => `${x(hz).toFixed(1)},${y(db).toFixed(1)}`);
    return `<polyline points="${points.join(' ')}" fill="none" stroke="${COLOURS[dither]}" stroke-width="1.5"/>`;
  });
  const grid = [-40, -30, -20, -10, 0, 10, 20].map(
    (db) =>
      `<line x1="${LEFT}" x2="${WIDTH - 8}" y1="${y(db)}" y2="${y(db)}" stroke="#ddd8e6"/><text x="${LEFT - 6}" y="${y(db) + 4}" text-anchor="end">${db < 0 ? `−${-db}` : db}</text>`,
  );
  const ticks = [100, 200, 500, 1000, 2000, 5000, 10_000, 20_000].map(
    (hz) => `<text x="${x(hz)}" y="${HEIGHT - 8}" text-anchor="middle">${hz < 1000 ? hz : `${hz / 1000}k`}</text>`,
  );
  const legend = ['tpdf', 'shaped'].map(
    (dither, i) => `<text x="${LEFT + 12 + 100 * i}" y="${TOP + 16}" fill="${COLOURS[dither]}">${NAMES[dither]}</text>`,
  );
  writeFileSync(
    'docs/dither.svg',
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${HEIGHT}" font-family="sans-serif" font-size="11" fill="#625c77">
<title>Spectra of the error of triangular and of shaped dither, at 44.1 kHz</title>
<rect width="${WIDTH}" height="${HEIGHT}" fill="#ffffff"/>
${[...grid, ...ticks, ...curves, ...legend].join('\n')}
<text x="${WIDTH - 12}" y="${TOP + 16}" text-anchor="end">dB of one step² over the band, by Hz</text>
</svg>
`,
  );
} finally {
  rmSync(folder, { recursive: true });
}
