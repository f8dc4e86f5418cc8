import { treatmentSchema } from '../treatment/treatment';
import { startTimeCodeOf } from './start-time-code';

const RATE = 48_000;
/** 10:00:00:00 at 25 pictures a second. */
const TEN = { rate: '25', pictureFrame: 900_000, offsetFrames: 0 } as const;
const start = (steps: object) => startTimeCodeOf(TEN, treatmentSchema.parse({ gainDb: 0, ...steps }), RATE);

test.each([
  ['nothing', {}, '10:00:00:00'],
  ['what is trimmed is left out', { trim: { startFrame: 2.5 * RATE, endFrame: null } }, '10:00:02:12'],
  ['what is added comes ahead', { paddingStart: { frames: RATE, kind: 'silence' } }, '09:59:59:00'],
  [
    'lengths that are added are counted at the rate that is written',
    {
      resampleHz: 96_000,
      paddingStart: { frames: 96_000, kind: 'silence' },
      trim: { startFrame: RATE, endFrame: null },
    },
    '10:00:00:00',
  ],
])('%s', (_name, steps, label) => expect(start(steps)).toEqual({ label, rate: '25' }));

test('a source without time code has none', () => {
  expect(startTimeCodeOf(null, treatmentSchema.parse({ gainDb: 0 }), RATE)).toBeNull();
});
