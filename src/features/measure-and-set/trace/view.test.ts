import { parseTimeCode, timeCodeAt } from '@/core/units/time-code';
import { TraceStore } from './store';
import { broughtIn, frameAt, LEAST_SHOWN_FRAMES, panned, timeCodeTicks, timeTicks, within, xOf, zoomed } from './view';

const WHOLE = { startFrame: -4800, endFrame: 1_000_000 };
const VIEW = { startFrame: 100_000, endFrame: 200_000 };

test('pixels and frames are each other’s inverse', () => {
  for (const frame of [100_000, 123_456.5, 200_000])
    expect(frameAt(VIEW, 944, xOf(VIEW, 944, frame))).toBeCloseTo(frame, 6);
});

test('zooming leaves the frame under the pointer where it is, in and out', () => {
  for (const factor of [0.5, 0.01, 1.7]) {
    const next = zoomed(VIEW, WHOLE, 125_000, factor);
    expect(xOf(next, 944, 125_000)).toBeCloseTo(xOf(VIEW, 944, 125_000), 6);
    expect(next.endFrame - next.startFrame).toBeCloseTo(100_000 * factor, 6);
  }
});

test('nobody zooms out of the programme, or nearer than a sample and its neighbours', () => {
  expect(zoomed(VIEW, WHOLE, 150_000, 1000)).toEqual(WHOLE);
  const nearest = zoomed(VIEW, WHOLE, 150_000, 1e-9);
  expect(nearest.endFrame - nearest.startFrame).toBeCloseTo(LEAST_SHOWN_FRAMES, 6);
  expect(within({ startFrame: 950_000, endFrame: 1_050_000 }, WHOLE)).toEqual({
    startFrame: 900_000,
    endFrame: 1_000_000,
  });
  const tiny = { startFrame: 0, endFrame: 5 };
  expect(within({ startFrame: 2, endFrame: 3 }, tiny)).toEqual(tiny);
});

test('moving stops at the ends', () => {
  expect(panned(VIEW, WHOLE, 0.5)).toEqual({ startFrame: 150_000, endFrame: 250_000 });
  expect(panned(VIEW, WHOLE, -99)).toEqual({ startFrame: -4800, endFrame: 95_200 });
});

test('what is seen already is not brought in', () => {
  expect(broughtIn(VIEW, WHOLE, 150_000)).toBe(VIEW);
  expect(broughtIn(VIEW, WHOLE, 500_000)).toEqual({ startFrame: 450_000, endFrame: 550_000 });
});

test.each([
  [{ startFrame: 0, endFrame: 300 * 48_000 }, '1:00'],
  [{ startFrame: 0, endFrame: 6 * 3600 * 48_000 }, '1:00:00'],
  [{ startFrame: 48_000, endFrame: 96_000 }, '0:01.2'],
  [{ startFrame: 48_000, endFrame: 48_048 }, '0:01.0002'],
])('times stand at round places: %j', (view, text) => {
  const ticks = timeTicks(view, 48_000, 944);
  expect(ticks.map((tick) => tick.text)).toContain(text);
  expect(ticks.length).toBeGreaterThan(4);
  expect(ticks.length).toBeLessThan(12);
});

test.each([
  // Ten minutes at 25 fps from ten o'clock; a second of it; two pictures of it.
  ['25', '10:00:00:00', [0, 600], ['10:00:00:00', '10:02:00:00', '10:10:00:00']],
  ['25', '10:00:00:00', [60, 61], ['10:01:00:00', '10:01:00:05', '10:01:01:00']],
  ['25', '10:00:00:12', [0, 5], ['10:00:01:00', '10:00:05:00']],
  // Of the minutes but the tenth the labels ;00 and ;01 are left out: a minute is marked where it begins.
  ['29.97-drop', '00:00:00;00', [0, 600], ['00:00:00;00', '00:02:00;02', '00:08:00;02']],
  ['29.97-drop', '23:58:00;02', [0, 300], ['23:59:00;02', '00:00:00;00', '00:01:00;02', '00:02:00;02']],
  ['23.976', '01:00:00:00', [0, 2], ['01:00:00:00', '01:00:00:05', '01:00:01:00']],
] as const)('at %s fps from %s time codes are round', (rate, label, [from, to], texts) => {
  const timeCode = { rate, pictureFrame: parseTimeCode(label, rate) ?? 0, offsetFrames: 0 };
  const view = { startFrame: from * 48_000, endFrame: to * 48_000 };
  const ticks = timeCodeTicks(view, 48_000, 944, timeCode);
  expect(ticks.map((tick) => tick.text)).toEqual(expect.arrayContaining([...texts]));
  expect(ticks.length).toBeLessThan(12);
  for (const { frame, text } of ticks) {
    expect(timeCodeAt(timeCode, Math.ceil(frame - 1e-6), 48_000)).toBe(text);
    expect(frame).toBeGreaterThanOrEqual(view.startFrame - 1);
    expect(frame).toBeLessThanOrEqual(view.endFrame + 1);
  }
});

test('nearer than a picture, times from the start are told', () => {
  const timeCode = { rate: '25', pictureFrame: 900_000, offsetFrames: 0 } as const;
  const view = { startFrame: 48_000, endFrame: 48_960 };
  expect(timeCodeTicks(view, 48_000, 944, timeCode)).toEqual(timeTicks(view, 48_000, 944));
});

test('what was shown whole stays whole when there is more; what was not stays where it was', () => {
  const store = new TraceStore({ startFrame: 0, endFrame: 1000 });
  store.setWhole({ startFrame: -100, endFrame: 1000 });
  expect(store.get().view).toEqual({ startFrame: -100, endFrame: 1000 });
  store.zoom(0.5, 500);
  const { view } = store.get();
  store.setWhole({ startFrame: -100, endFrame: 2000 });
  expect(store.get().view).toEqual(view);
});

test('a place is gone to from near, but never from farther than one looked already', () => {
  const store = new TraceStore({ startFrame: 0, endFrame: 1_000_000 });
  store.goTo(500_000, 10_000);
  expect(store.get()).toMatchObject({ frame: 500_000, view: { startFrame: 495_000, endFrame: 505_000 } });
  store.zoom(0.1);
  store.goTo(700_000, 10_000);
  const { startFrame, endFrame } = store.get().view;
  expect(endFrame - startFrame).toBeCloseTo(1000, 3);
  expect((startFrame + endFrame) / 2).toBeCloseTo(700_000, 3);
});
