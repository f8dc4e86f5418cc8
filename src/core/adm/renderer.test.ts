/** Rendered tracks, held against a plain sum of every sample by the rules of blocks. */
import fc from 'fast-check';
import type { AdmBlock, AdmChannel } from './model';
import { pointSourcePanner } from './panner/point-source';
import { Renderer } from './renderer';
import type { RenderItem } from './select-items';

const RATE = 48_000;
const panned = pointSourcePanner('5.1');
const point = (value: number) => ({ value, least: value, most: value });
const block = (own: Partial<AdmBlock> & { at?: readonly [number, number] } = {}): AdmBlock => {
  const { at: [azimuth, elevation] = [0, 0], ...rest } = own;
  return {
    startSeconds: null,
    durationSeconds: null,
    gain: 1,
    azimuth: point(azimuth),
    elevation: point(elevation),
    distance: point(1),
    speakerLabels: [],
    jumpSeconds: null,
    unsupported: [],
    ...rest,
  };
};
const channel = (type: 'Objects' | 'DirectSpeakers', blocks: AdmBlock[]): AdmChannel => ({
  id: 'AC_1',
  name: 'channel',
  type,
  lowPassHz: null,
  blocks,
});
const item = (format: AdmChannel, own: Partial<RenderItem> = {}): RenderItem => ({
  channel: 0,
  format,
  gain: 1,
  startSeconds: null,
  durationSeconds: null,
  ...own,
});
const ones = (frames: number) => [new Float32Array(frames).fill(1)];

/** Renders pieces of some lengths, one after the other. */
function rendered(items: RenderItem[], planar: Float32Array[], pieces = [planar[0]?.length ?? 0]): Float32Array[] {
  const frames = planar[0]?.length ?? 0;
  const renderer = new Renderer(items, '5.1', RATE, frames);
  const out = Array.from({ length: renderer.channels }, () => new Float32Array(frames));
  for (let at = 0, i = 0; at < frames; i++) {
    const count = Math.min(frames - at, pieces[i % pieces.length] as number);
    const piece = renderer.process(
      planar.map((samples) => samples.subarray(at, at + count)),
      count,
    );
    for (const [c, samples] of piece.entries()) out[c]?.set(samples, at);
    at += count;
  }
  return out;
}

/** The gain of each loudspeaker at a frame, by the rules in plain words: the block that holds there, and how far it has come. */
function gainsAt(frame: number, { format, startSeconds, durationSeconds, gain }: RenderItem, frames: number): number[] {
  const start = (startSeconds ?? 0) * RATE;
  const end = durationSeconds === null ? frames : start + durationSeconds * RATE;
  const none = [0, 0, 0, 0, 0, 0];
  if (frame < start - 1e-4 || frame >= end - 1e-4) return none;
  let before: { gains: number[]; end: number } | null = null;
  for (const own of format.blocks) {
    const from = start + (own.startSeconds ?? 0) * RATE;
    const to = own.durationSeconds === null ? end : from + own.durationSeconds * RATE;
    const gains = panned(own.azimuth.value, own.elevation.value).map((one) => one * own.gain * gain);
    if (frame >= from - 1e-4 && frame < to - 1e-4) {
      const way = own.jumpSeconds === null ? to - from : own.jumpSeconds * RATE;
      const share = before && Math.abs(before.end - from) < 1e-4 && way > 0 ? Math.min(1, (frame - from) / way) : 1;
      return gains.map((one, i) => (before?.gains[i] ?? one) * (1 - share) + one * share);
    }
    before = { gains, end: to };
  }
  return none;
}

test('blocks, ramps, jumps, gaps and objects that begin late are rendered as the rules have it, whatever the pieces', () => {
  const times = fc.array(
    fc.record({
      length: fc.integer({ min: 1, max: 400 }),
      gap: fc.constantFrom(0, 0, 0, 37),
      azimuth: fc.integer({ min: -180, max: 180 }),
      elevation: fc.integer({ min: -90, max: 90 }),
      gain: fc.double({ min: 0, max: 2, noNaN: true }),
      jump: fc.constantFrom(null, 0, 0.001),
    }),
    { minLength: 1, maxLength: 6 },
  );
  fc.assert(
    fc.property(
      times,
      fc.constantFrom(null, 0.0005, 0.0101),
      fc.constantFrom(null, 0.013),
      fc.constantFrom(64, 7, 1000),
      (list, startSeconds, durationSeconds, piece) => {
        let at = 0;
        const blocks = list.map(({ length, gap, azimuth, elevation, gain, jump }) => {
          const own = block({
            at: [azimuth, elevation],
            startSeconds: (at + gap) / RATE,
            durationSeconds: length / RATE,
            gain,
            jumpSeconds: jump && Math.min(jump, length / RATE),
          });
          at += gap + length;
          return own;
        });
        const one = item(channel('Objects', blocks), { startSeconds, durationSeconds, gain: 0.7 });
        const frames = 1500;
        const out = rendered([one], ones(frames), [piece]);
        let worst = 0;
        for (let n = 0; n < frames; n++) {
          for (const [i, gain] of gainsAt(n, one, frames).entries())
            worst = Math.max(worst, Math.abs((out[i]?.[n] as number) - gain));
        }
        expect(worst).toBeLessThan(1e-6);
      },
    ),
    { numRuns: 60 },
  );
});

test('along a moving path the power falls by 3 dB at most, and never rises', () => {
  const path = fc.tuple(fc.integer({ min: -180, max: 180 }), fc.integer({ min: -90, max: 90 }));
  fc.assert(
    fc.property(path, path, (from, to) => {
      const blocks = [
        block({ at: from, startSeconds: 0, durationSeconds: 0.001 }),
        block({ at: to, startSeconds: 0.001, durationSeconds: 0.004 }),
      ];
      const out = rendered([item(channel('Objects', blocks))], ones(240));
      for (let n = 0; n < 240; n++) {
        const power = out.reduce((sum, samples) => sum + (samples[n] as number) ** 2, 0);
        expect(power).toBeGreaterThan(0.5 - 1e-6);
        expect(power).toBeLessThan(1 + 1e-6);
      }
    }),
    { numRuns: 100 },
  );
});

test('blocks whose times are rounded to 10 µs follow one another without a gap or a frame twice', () => {
  // 1,024 frames are 21.333… ms: stated as 0.02133.
  const blocks = Array.from({ length: 20 }, (_, i) =>
    block({
      at: [30, 0],
      startSeconds: Number(((i * 1024) / RATE).toFixed(5)),
      durationSeconds: Number((1024 / RATE).toFixed(5)),
    }),
  );
  const [left] = rendered([item(channel('Objects', blocks))], ones(20_000));
  expect(left?.every((sample) => sample === 1)).toBe(true);
});

test('tracks add up, and a channel for loudspeakers changes at once', () => {
  const still = item(channel('Objects', [block({ at: [0, 0] })]));
  const steps = item(
    channel('DirectSpeakers', [
      block({ at: [30, 0], startSeconds: 0, durationSeconds: 0.001 }),
      block({ at: [-30, 0], startSeconds: 0.001, durationSeconds: 0.001, gain: 0.5 }),
    ]),
    { channel: 1 },
  );
  const [left, right, centre] = rendered([still, still, steps], [...ones(96), ...ones(96)]);
  expect([left?.[47], left?.[48], right?.[47], right?.[48], centre?.[50]]).toEqual([1, 0, 0, 0.5, 2]);
});
