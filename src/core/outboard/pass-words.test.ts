import { passProblems, passText } from './pass-words';

const RATE_HZ = 48_000;
const CLEAN = {
  delayFrames: 1234,
  likeness: 0.97,
  isInverted: false,
  heldPlaces: 64,
  places: 64,
  shifts: [],
  driftPpm: null,
  gainDb: -1.23,
  peakDbfs: -3,
  dropOuts: [],
};

test('when and how loud it came back', () => {
  expect(passText(CLEAN, RATE_HZ)).toBe('25.7 ms later (1234 frames), 1.2 dB quieter');
  expect(passText({ ...CLEAN, gainDb: 0.5 }, RATE_HZ)).toBe('25.7 ms later (1234 frames), 0.5 dB louder');
  expect(passText({ ...CLEAN, gainDb: 0.04 }, RATE_HZ)).toBe('25.7 ms later (1234 frames), as loud');
});

test('what is wrong is told, and nothing where nothing is', () => {
  expect(passProblems(CLEAN, RATE_HZ)).toEqual([]);
  const shifts = [{ startFrame: 96_000, endFrame: 144_000, byFrames: 64 }];
  const dropOuts = [
    { startFrame: 48_000, frames: 256 },
    { startFrame: 60_000, frames: 256 },
  ];
  expect(passProblems({ ...CLEAN, shifts, dropOuts, isInverted: true, peakDbfs: 0, likeness: 0.4 }, RATE_HZ)).toEqual([
    '2 drop-outs, the first at 0:01',
    'between 0:02 and 0:03 64 frames were added: send it again',
    'polarity inverted',
    'full scale was reached: the input may have clipped',
    'little of it is like what was sent: check that it is the right return',
  ]);
  // Clocks explain every shift.
  expect(passProblems({ ...CLEAN, shifts, driftPpm: -41.7 }, RATE_HZ)).toEqual([
    'output and input run by clocks that differ by 42 ppm: use one device for both',
  ]);
});
