import fc from 'fast-check';
import { formatTimeCode } from '@/core/units/time-code';
import { readSpanList } from './span-list';

const RATE = 48_000;
/** An hour at 25 pictures a second, from 10:00:00:00. */
const HOUR = {
  sampleRateHz: RATE,
  frames: 3600 * RATE,
  timeCode: { rate: '25', pictureFrame: 900_000, offsetFrames: 0 },
} as const;

test('an edit list: record times, each pair once, under the names of its clips', () => {
  const list = `TITLE: REEL 1
FCM: NON-DROP FRAME

001  A001     V     C        01:00:10:00 01:00:14:00 10:00:00:00 10:00:04:00
* FROM CLIP NAME: Harbour at dawn
001  A001     AA    C        01:00:10:00 01:00:14:00 10:00:00:00 10:00:04:00
002  B002     V     D    025 00:00:00:00 00:00:10:12 10:00:04:00 10:00:14:12
003  AX       A2    C        00:00:00:00 00:00:10:00 09:59:00:00 09:59:10:00
004  AX       V     C        00:00:00:00 00:00:00:00 10:00:20:00 10:00:20:00
`;
  const { spans, unread } = readSpanList(list, HOUR);
  expect(spans).toEqual([
    { name: 'Harbour at dawn', startFrame: 0, endFrame: 4 * RATE },
    { name: '002 B002', startFrame: 4 * RATE, endFrame: 14.48 * RATE },
  ]);
  expect(unread.map(({ line, why }) => [line, why])).toEqual([
    [8, 'outside'],
    [9, 'empty'],
  ]);
});

test('drop-frame labels are placed by the rate of the programme', () => {
  const drop = { ...HOUR, timeCode: { rate: '29.97-drop', pictureFrame: 107_892, offsetFrames: 0 } } as const;
  const list = '001  AX  V  C  00:00:00;00 00:00:10;00 01:00:59;28 01:01:00;02\n';
  const { spans } = readSpanList(list, drop);
  // 1798 pictures, and two more: ;00 and ;01 of the minute are left out.
  expect(spans).toEqual([
    {
      name: '001 AX',
      startFrame: Math.ceil((1798 * 1001 * RATE) / 30_000),
      endFrame: Math.ceil((1800 * 1001 * RATE) / 30_000),
    },
  ]);
  expect(readSpanList(list.replace('01:01:00;02', '01:01:00;01'), drop).unread).toMatchObject([{ why: 'no-times' }]);
});

test.each([
  ['headings in any order', 'End,Name,Start\n0:20,"One, two",0:10\n1:00:00,Last,59:00\n'],
  ['semicolons, no headings', 'One, two;10;20\nLast;0:59:00;1:00:00\n'],
  ['tabs', 'start\tend\tname\n10.0\t20\tOne, two\n59:00\t1:00:00\tLast\n'],
  [
    'time code, with a byte order mark and the line ends of Windows',
    '\uFEFFname,start,end\r\n"One, two",10:00:10:00,10:00:20:00\r\nLast,10:59:00:00,11:00:00:00\r\n',
  ],
])('a table: %s', (_name, text) => {
  expect(readSpanList(text, HOUR)).toEqual({
    spans: [
      { name: 'One, two', startFrame: 10 * RATE, endFrame: 20 * RATE },
      { name: 'Last', startFrame: 59 * 60 * RATE, endFrame: 3600 * RATE },
    ],
    unread: [],
  });
});

test('what is no span is named, and nothing else is lost', () => {
  const text =
    'name,start,end\nFine,1,2\nBackwards,5,4\nBeyond,3601,3700\nWords,soon,later\nLabel,10:00:01:00,10:00:02:00\n';
  const { spans, unread } = readSpanList(text, { ...HOUR, timeCode: null });
  expect(spans).toEqual([{ name: 'Fine', startFrame: RATE, endFrame: 2 * RATE }]);
  expect(unread.map(({ line, why }) => [line, why])).toEqual([
    [3, 'empty'],
    [4, 'outside'],
    [5, 'no-times'],
    [6, 'no-time-code'],
  ]);
});

test('any spans that are written as an edit list are read again, to the picture', () => {
  const edit = fc.tuple(fc.integer({ min: 0, max: 89_000 }), fc.integer({ min: 1, max: 900 }));
  fc.assert(
    fc.property(
      fc.uniqueArray(edit, { maxLength: 30, selector: ([start, length]) => `${start} ${length}` }),
      (edits) => {
        const label = (picture: number) => formatTimeCode(900_000 + picture, '25');
        const lines = edits.map(
          ([start, length], i) =>
            `${String(i + 1).padStart(3, '0')}  AX       AA/V  C        00:00:00:00 00:00:00:00 ${label(start)} ${label(start + length)}`,
        );
        const { spans } = readSpanList(lines.join('\n'), HOUR);
        expect(spans.map(({ startFrame, endFrame }) => [startFrame, endFrame])).toEqual(
          edits.map(([start, length]) => [start * 1920, Math.min(HOUR.frames, (start + length) * 1920)]),
        );
      },
    ),
  );
});

test('whatever the text, nothing is thrown', () => {
  fc.assert(
    fc.property(fc.string({ maxLength: 300, unit: 'binary' }), (text) => {
      const { spans } = readSpanList(text, HOUR);
      for (const { startFrame, endFrame } of spans) expect(endFrame).toBeGreaterThan(startFrame);
    }),
  );
});
