import { timelineOf, toSourceFrame, toTreatedFrame } from './timeline';

const SOURCE = { frames: 480_000, sampleRateHz: 48_000 };
const PLAIN = { trim: null, resampleHz: null, paddingStart: null, paddingEnd: null };

test('without steps a treated frame is the source’s', () => {
  const timeline = timelineOf(PLAIN, SOURCE);
  expect(timeline).toMatchObject({ startFrame: 0, endFrame: 480_000, firstFrame: 0, lastFrame: 480_000, ratio: 1 });
  expect(toSourceFrame(timeline, 1234)).toBe(1234);
});

test('what is kept, added and resampled has its place along the source', () => {
  const timeline = timelineOf(
    {
      trim: { startFrame: 4800, endFrame: null },
      resampleHz: 96_000,
      paddingStart: { frames: 19_200, kind: 'silence' },
      paddingEnd: { frames: 9600, kind: 'room-tone' },
    },
    SOURCE,
  );
  // 19 200 frames at 96 kHz are 9600 of the source: it begins ahead of it.
  expect(timeline).toMatchObject({ startFrame: -4800, endFrame: 484_800, firstFrame: -4800, lastFrame: 484_800 });
  expect(toSourceFrame(timeline, 19_200)).toBe(4800);
  for (const frame of [0, 19_200, 500_000])
    expect(toTreatedFrame(timeline, toSourceFrame(timeline, frame))).toBe(frame);
});
