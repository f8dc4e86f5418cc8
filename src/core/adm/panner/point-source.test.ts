/** The point source panner, held against loudspeaker positions, worked values, and a plain formula of its own. */
import fc from 'fast-check';
import { RENDER_LAYOUTS, type RenderLayout, speakersOf } from '../render-layouts';
import { pointSourcePanner } from './point-source';

const degrees = Math.PI / 180;
const at = (azimuth: number, elevation: number) => [
  -Math.sin(azimuth * degrees) * Math.cos(elevation * degrees),
  Math.cos(azimuth * degrees) * Math.cos(elevation * degrees),
  Math.sin(elevation * degrees),
];
const dot = (a: readonly number[], b: readonly number[]) =>
  a.reduce((sum, value, i) => sum + value * (b[i] as number), 0);
const power = (gains: readonly number[]) => gains.reduce((sum, gain) => sum + gain * gain, 0);
const panners = Object.fromEntries(RENDER_LAYOUTS.map((layout) => [layout, pointSourcePanner(layout)]));
const panned = (layout: RenderLayout, azimuth: number, elevation: number) =>
  (panners[layout] as ReturnType<typeof pointSourcePanner>)(azimuth, elevation);
const anywhere = [
  fc.double({ min: -180, max: 180, noNaN: true }),
  fc.double({ min: -90, max: 90, noNaN: true }),
] as const;

/** Three numbers that weigh three directions to a fourth, by Cramer's rule. */
function weights(corners: readonly number[][], to: readonly number[]): number[] {
  const [a, b, c] = corners as [number[], number[], number[]];
  const det = (p: readonly number[], q: readonly number[], r: readonly number[]) =>
    (p[0] as number) * ((q[1] as number) * (r[2] as number) - (q[2] as number) * (r[1] as number)) -
    (q[0] as number) * ((p[1] as number) * (r[2] as number) - (p[2] as number) * (r[1] as number)) +
    (r[0] as number) * ((p[1] as number) * (q[2] as number) - (p[2] as number) * (q[1] as number));
  const whole = det(a, b, c);
  return [det(to, b, c) / whole, det(a, to, c) / whole, det(a, b, to) / whole];
}

/**
 * A second, plain panner for the middle layer and below, and above where there is no upper layer: sectors between neighbours are found by their
 * azimuth, and the place within a sector's four corners by Newton's method.
 */
function plainPanner(azimuths: readonly number[], azimuth: number, elevation: number): Map<number, number> {
  const sorted = [...azimuths].sort((a, b) => a - b);
  const from = (((azimuth % 360) + 540) % 360) - 180;
  const next = sorted.findIndex((own) => own > from);
  const [a, b] =
    next <= 0 ? [sorted.at(-1) as number, sorted[0] as number] : [sorted[next - 1] as number, sorted[next] as number];
  const side = Math.sign(elevation) || 1;
  const to = at(azimuth, elevation);
  const shares = new Map<number, number>(sorted.map((own) => [own, 0]));
  const add = (own: number, gain: number) => shares.set(own, (shares.get(own) ?? 0) + gain);
  const cap = weights([at(a, 30 * side), at(b, 30 * side), [0, 0, side]], to);
  if (cap.every((weight) => weight >= -1e-12)) {
    const size = Math.sqrt(power(cap));
    for (const own of sorted) add(own, (cap[2] as number) / size / Math.sqrt(sorted.length));
    add(a, (cap[0] as number) / size);
    add(b, (cap[1] as number) / size);
  } else {
    const corners = [at(a, 0), at(b, 0), at(b, 30 * side), at(a, 30 * side)];
    const gainsAt = (x: number, y: number) => [(1 - x) * (1 - y), x * (1 - y), x * y, (1 - x) * y];
    // Where the corners add up to the direction, they have nothing across it, neither to the left nor upwards.
    const across = [at(azimuth + 90, 0), at(azimuth, elevation + 90)];
    const missed = (x: number, y: number) =>
      across.map((axis) =>
        corners.reduce((sum, corner, c) => sum + (gainsAt(x, y)[c] as number) * dot(axis, corner), 0),
      ) as [number, number];
    let [x, y] = [0.5, 0.5];
    for (let i = 0; i < 60; i++) {
      const [fx, fy] = missed(x, y);
      const [dx, dy] = [missed(x + 0.5, y), missed(x, y + 0.5)].map(([gx, gy]) => [2 * (gx - fx), 2 * (gy - fy)]) as [
        [number, number],
        [number, number],
      ];
      const whole = dx[0] * dy[1] - dy[0] * dx[1];
      x -= (fx * dy[1] - fy * dy[0]) / whole;
      y -= (dx[0] * fy - dx[1] * fx) / whole;
    }
    [x, y] = [x, y].map((share) => Math.min(1, Math.max(0, share))) as [number, number];
    const gains = gainsAt(x, y);
    const size = Math.sqrt(power(gains));
    add(a, ((gains[0] as number) + (gains[3] as number)) / size);
    add(b, ((gains[1] as number) + (gains[2] as number)) / size);
  }
  const size = Math.sqrt(power([...shares.values()]));
  return new Map([...shares].map(([own, gain]) => [own, gain / size]));
}

test.each(RENDER_LAYOUTS)('%s: a source at a loudspeaker comes from it alone', (layout) => {
  speakersOf(layout).forEach(({ azimuthDegrees, elevationDegrees, isLfe }, speaker) => {
    if (isLfe) return;
    for (const [i, gain] of panned(layout, azimuthDegrees, elevationDegrees).entries())
      expect(gain).toBeCloseTo(i === speaker ? 1 : 0, 9);
  });
});

test.each(RENDER_LAYOUTS.filter((layout) => layout !== 'stereo'))(
  '%s: unit power from everywhere, and nothing for LFE',
  (layout) => {
    const lfe = speakersOf(layout).findIndex(({ isLfe }) => isLfe);
    fc.assert(
      fc.property(...anywhere, (azimuth, elevation) => {
        const gains = panned(layout, azimuth, elevation);
        expect(power(gains)).toBeCloseTo(1, 9);
        expect(gains[lfe]).toBe(0);
        expect(Math.min(...gains)).toBeGreaterThanOrEqual(0);
      }),
      { numRuns: 2000 },
    );
  },
);

test.each(['5.1', '7.1'] as const)('%s: the same as by a second, plain panner', (layout) => {
  const speakers = speakersOf(layout);
  const azimuths = speakers.filter(({ isLfe }) => !isLfe).map(({ azimuthDegrees }) => azimuthDegrees);
  fc.assert(
    fc.property(...anywhere, (azimuth, elevation) => {
      const plain = plainPanner(azimuths, azimuth, elevation);
      panned(layout, azimuth, elevation).forEach((gain, i) => {
        const { azimuthDegrees, isLfe } = speakers[i] as (typeof speakers)[number];
        expect(Math.abs(gain - (isLfe ? 0 : (plain.get(azimuthDegrees) as number)))).toBeLessThan(1e-5);
      });
    }),
    { numRuns: 400 },
  );
});

test.each(['5.1.4', '7.1.4'] as const)(
  '%s: below, the same as by the plain panner; above, the gains add up to the direction',
  (layout) => {
    const speakers = speakersOf(layout);
    const middle = speakers.filter(({ isLfe, elevationDegrees }) => !isLfe && elevationDegrees === 0);
    fc.assert(
      fc.property(...anywhere, (azimuth, elevation) => {
        const gains = panned(layout, azimuth, elevation);
        if (elevation < 0) {
          const plain = plainPanner(
            middle.map(({ azimuthDegrees }) => azimuthDegrees),
            azimuth,
            elevation,
          );
          speakers.forEach(({ azimuthDegrees, elevationDegrees, isLfe }, i) => {
            const expected = isLfe || elevationDegrees !== 0 ? 0 : (plain.get(azimuthDegrees) as number);
            expect(Math.abs((gains[i] as number) - expected)).toBeLessThan(1e-5);
          });
          return;
        }
        // Over the four of 7.1.4 as well, since their middle is straight above; those of 5.1.4 have it further in front.
        if (layout === '5.1.4' && elevation > 20) return;
        const sum = [0, 1, 2].map((axis) =>
          speakers.reduce(
            (all, { azimuthDegrees, elevationDegrees }, i) =>
              all + (gains[i] as number) * (at(azimuthDegrees, elevationDegrees)[axis] as number),
            0,
          ),
        );
        const size = Math.sqrt(power(sum));
        for (const [axis, value] of at(azimuth, elevation).entries())
          expect((sum[axis] as number) / size).toBeCloseTo(value, 6);
      }),
      { numRuns: 400 },
    );
  },
);

test('values worked by hand', () => {
  const half = Math.SQRT1_2;
  const expectGains = (gains: readonly number[], expected: readonly number[]) => {
    for (const [i, gain] of gains.entries()) expect(gain).toBeCloseTo(expected[i] as number, 6);
  };
  // Midway between two loudspeakers: −3 dB from each.
  expectGains(panned('5.1', 15, 0), [half, 0, half, 0, 0, 0]);
  expectGains(panned('5.1', 180, 0), [0, 0, 0, 0, half, half]);
  expectGains(panned('7.1.4', 0, 90), [0, 0, 0, 0, 0, 0, 0, 0, 0.5, 0.5, 0.5, 0.5]);
  // Straight below, all of the middle layer shares.
  expectGains(
    panned('5.1', 0, -90),
    [1, 1, 1, 0, 1, 1].map((on) => on / Math.sqrt(5)),
  );
  // 30° up in front: a·(U+045 + U−045) + m·M+000 points there where a = 0.5 and m = cos 30° − cos 45° · cos 30°.
  const centre = Math.cos(30 * degrees) * (1 - Math.cos(45 * degrees));
  const size = Math.hypot(0.5, 0.5, centre);
  expectGains(panned('7.1.4', 0, 30), [0, 0, centre / size, 0, 0, 0, 0, 0, 0.5 / size, 0.5 / size, 0, 0]);
  // Stereo: the centre −3 dB to both; what is behind 3 dB softer as a whole.
  expectGains(panned('stereo', 0, 0), [half, half]);
  expectGains(panned('stereo', 110, 0), [half, 0]);
  expectGains(panned('stereo', 180, 0), [0.5, 0.5]);
});

test('what is mirrored is panned to the other side', () => {
  for (const layout of RENDER_LAYOUTS) {
    const speakers = speakersOf(layout);
    const mirror = speakers.map(({ azimuthDegrees, elevationDegrees, isLfe }) =>
      speakers.findIndex(
        (own) =>
          own.isLfe === isLfe &&
          own.elevationDegrees === elevationDegrees &&
          (isLfe || own.azimuthDegrees === (azimuthDegrees === 180 ? 180 : 0 - azimuthDegrees)),
      ),
    );
    for (const [azimuth, elevation] of [
      [10, 5],
      [77, 42],
      [150, -33],
      [101, 29.9],
    ] as const) {
      const [gains, mirrored] = [panned(layout, azimuth, elevation), panned(layout, -azimuth, elevation)];
      for (const [i, gain] of gains.entries()) expect(mirrored[mirror[i] as number]).toBeCloseTo(gain, 9);
    }
  }
});
