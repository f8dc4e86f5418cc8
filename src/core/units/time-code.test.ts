import fc from 'fast-check';
import {
  formatTimeCode,
  frameAtTimeCode,
  framesAfterMidnight,
  parseTimeCode,
  pictureFrameRate,
  TIME_CODE_RATES,
  type TimeCodeRate,
  timeCodeAfterMidnight,
  timeCodeAt,
  timeCodeRateOf,
} from './time-code';

const rates = fc.constantFrom(...TIME_CODE_RATES);
const isDrop = (rate: TimeCodeRate) => rate.endsWith('drop');
const two = (value: number) => String(value).padStart(2, '0');

/** The counting rule itself, label by label through a day: SMPTE ST 12-1, from memory. Told are those where it counts, and others. */
function* labelsOfADay(counted: number, dropped: number): Generator<{ at: number; label: string }> {
  let at = 0;
  for (let minute = 0; minute < 24 * 60; minute++) {
    const clock = `${two(Math.floor(minute / 60))}:${two(minute % 60)}`;
    for (let second = 0; second < 60; second++) {
      for (let frame = 0; frame < counted; frame++) {
        if (second === 0 && frame < dropped && minute % 10 !== 0) continue;
        const isTold = (second === 0 && frame < 8) || (second === 59 && frame > counted - 8) || at % 97 === 0;
        if (isTold) yield { at, label: `${clock}:${two(second)}${dropped > 0 ? ';' : ':'}${two(frame)}` };
        at++;
      }
    }
  }
}

test.each([
  ['29.97-drop', 30, 2, 2_589_408],
  ['59.94-drop', 60, 4, 5_178_816],
  ['25', 25, 0, 2_160_000],
] as const)('a day of %s is counted by the rule', (rate, counted, dropped, perDay) => {
  const wrong: unknown[] = [];
  let last = -1;
  for (const { at, label } of labelsOfADay(counted, dropped)) {
    if (formatTimeCode(at, rate) !== label || parseTimeCode(label, rate) !== at) wrong.push({ at, label });
    last = at;
  }
  expect([wrong, last]).toEqual([[], perDay - 1]);
  expect(formatTimeCode(perDay, rate)).toBe(formatTimeCode(0, rate));
  expect(formatTimeCode(-1, rate)).toBe(formatTimeCode(perDay - 1, rate));
});

test('the labels that every table of drop-frame counting has', () => {
  // Common practice, no source.
  for (const [frame, label] of [
    [1799, '00:00:59;29'],
    [1800, '00:01:00;02'],
    [17_981, '00:09:59;29'],
    [17_982, '00:10:00;00'],
    [107_892, '01:00:00;00'],
  ] as const) {
    expect(formatTimeCode(frame, '29.97-drop')).toBe(label);
    expect(parseTimeCode(label, '29.97-drop')).toBe(frame);
  }
});

test('what is no label of a rate is none', () => {
  for (const text of [
    '',
    '1:00:00:00',
    '00:00:00',
    '24:00:00:00',
    '00:60:00:00',
    '00:00:60:00',
    '00:00:00:25',
    'ab:cd:ef:gh',
  ]) {
    expect(parseTimeCode(text, '25')).toBeUndefined();
  }
  // Left out.
  expect(parseTimeCode('00:01:00;01', '29.97-drop')).toBeUndefined();
  expect(parseTimeCode('00:01:00;03', '59.94-drop')).toBeUndefined();
  expect(parseTimeCode('00:01:00:01', '29.97')).toBe(1801);
});

test('over a day, drop-frame time code is never two frames and a bit away from the clock', () => {
  fc.assert(
    fc.property(
      fc.constantFrom<TimeCodeRate>('29.97-drop', '59.94-drop'),
      fc.nat({ max: 2_589_407 }),
      (rate, frame) => {
        const counted = Math.round(pictureFrameRate(rate));
        const [h = 0, m = 0, s = 0, f = 0] = formatTimeCode(frame, rate).split(/[:;]/).map(Number);
        const shownSeconds = h * 3600 + m * 60 + s + f / counted;
        // It loses 2.6 frames (of 30) a day: SMPTE ST 12-1, from memory.
        expect(Math.abs(shownSeconds - frame / pictureFrameRate(rate))).toBeLessThan(0.0868 + 2 / 30);
      },
    ),
  );
});

test('a label is shown from the first frame of sound that its picture frame sounds with, to the last', () => {
  const soundRates = fc.constantFrom(8000, 44_100, 48_000, 96_000, 192_000);
  fc.assert(
    fc.property(
      rates,
      soundRates,
      fc.nat({ max: 2_000_000 }),
      fc.nat({ max: 2_000_000 }),
      (rate, sampleRateHz, first, n) => {
        // The first frame of sound at or after the start of picture frame n, by whole numbers alone.
        const [counted, slow] = [BigInt(Math.round(pictureFrameRate(rate))), pictureFrameRate(rate) % 1 > 0.1];
        const [top, bottom] = [BigInt(n) * BigInt(sampleRateHz) * (slow ? 1001n : 1000n), counted * 1000n];
        const at = Number((top + bottom - 1n) / bottom);
        const start = { rate, pictureFrame: first, offsetFrames: 0 };
        expect(timeCodeAt(start, at, sampleRateHz)).toBe(formatTimeCode(first + n, rate));
        if (n > 0) expect(timeCodeAt(start, at - 1, sampleRateHz)).toBe(formatTimeCode(first + n - 1, rate));
      },
    ),
  );
});

test('the frame that a time code is typed for is the first that shows it', () => {
  const soundRates = fc.constantFrom(8000, 44_100, 48_000, 96_000, 192_000);
  const offsets = fc.integer({ min: -5000, max: 5000 });
  fc.assert(
    fc.property(
      rates,
      soundRates,
      fc.nat({ max: 2_000_000 }),
      offsets,
      fc.nat({ max: 2 ** 31 }),
      (rate, hz, first, offset, at) => {
        const start = { rate, pictureFrame: first, offsetFrames: offset };
        const label = timeCodeAt(start, at, hz);
        const frame = frameAtTimeCode(start, label, hz) ?? Number.NaN;
        expect(timeCodeAt(start, frame, hz)).toBe(label);
        expect(frame).toBeLessThanOrEqual(at);
        if (frame > 0) expect(timeCodeAt(start, frame - 1, hz)).not.toBe(label);
      },
    ),
  );
  const beforeMidnight = { rate: '25', pictureFrame: 86_399 * 25, offsetFrames: 0 } as const;
  expect(frameAtTimeCode(beforeMidnight, '00:00:01:00', 48_000)).toBe(2 * 48_000);
  expect(frameAtTimeCode(beforeMidnight, '00:00:01:25', 48_000)).toBeUndefined();
  // One frame of sound ahead of midnight, which the last picture frame of the day before is shown with.
  const aheadOfMidnight = { rate: '24', pictureFrame: 0, offsetFrames: -1 } as const;
  expect(frameAtTimeCode(aheadOfMidnight, '23:59:59:23', 48_000)).toBe(0);
  expect(frameAtTimeCode(aheadOfMidnight, '00:00:00:00', 48_000)).toBe(1);
});

test('sound that begins before its picture, or so long after midnight', () => {
  expect(timeCodeAt({ rate: '25', pictureFrame: 90_000, offsetFrames: -1 }, 0, 48_000)).toBe('00:59:59:24');
  expect(timeCodeAt({ rate: '25', pictureFrame: 90_000, offsetFrames: -1 }, 1, 48_000)).toBe('01:00:00:00');
  // Ten hours and 100 frames of sound.
  const tenHours = timeCodeAfterMidnight(36_000 * 48_000 + 100, '25');
  expect(timeCodeAt(tenHours, 0, 48_000)).toBe('10:00:00:00');
  expect(timeCodeAt(tenHours, 1819, 48_000)).toBe('10:00:00:00');
  expect(timeCodeAt(tenHours, 1820, 48_000)).toBe('10:00:00:01');
  expect(framesAfterMidnight(tenHours, 48_000)).toBe(36_000 * 48_000 + 100);
  // An hour of labels that drop none is 3.6 s longer by the clock.
  expect(framesAfterMidnight({ rate: '29.97', pictureFrame: 108_000, offsetFrames: 7 }, 48_000)).toBe(
    3603.6 * 48_000 + 7,
  );
  expect(framesAfterMidnight({ rate: '25', pictureFrame: 0, offsetFrames: -7 }, 48_000)).toBe(0);
  fc.assert(
    fc.property(
      rates,
      fc.constantFrom(44_100, 48_000, 96_000),
      fc.nat({ max: 2_000_000 }),
      (rate, hz, pictureFrame) => {
        const after = framesAfterMidnight({ rate, pictureFrame, offsetFrames: 0 }, hz);
        expect(timeCodeAt(timeCodeAfterMidnight(after, rate), 0, hz)).toBe(formatTimeCode(pictureFrame, rate));
      },
    ),
  );
});

test('rates are known by what files state of them', () => {
  expect(timeCodeRateOf(30_000 / 1001, true)).toBe('29.97-drop');
  expect(timeCodeRateOf(29.97, false)).toBe('29.97');
  expect(timeCodeRateOf(23.98, false)).toBe('23.976');
  expect(timeCodeRateOf(24, false)).toBe('24');
  // Nothing drops labels at whole rates.
  expect(timeCodeRateOf(30, true)).toBeUndefined();
  expect(timeCodeRateOf(12.5, false)).toBeUndefined();
  for (const rate of TIME_CODE_RATES) expect(timeCodeRateOf(pictureFrameRate(rate), isDrop(rate))).toBe(rate);
});
