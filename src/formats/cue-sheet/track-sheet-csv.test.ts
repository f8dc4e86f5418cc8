import { parse } from 'csv-parse/sync';
import { planAssembly } from '@/core/lineup/assembly';
import { trackRows } from '@/core/lineup/track-sheet';
import { trackSheetCsv } from './track-sheet-csv';

const assembly = planAssembly(
  [
    { frames: 441_000, gapSeconds: 2 },
    { frames: 441_000, gapSeconds: 0 },
  ],
  44_100,
);
const texts = [
  { title: 'First, light "live"', artist: 'The Quillmere', isrc: 'QDA1A2600001' },
  { title: '=2+2', artist: '', isrc: '' },
];
const levels = [
  { integratedLufs: -14.256, fromWholeLu: 0.4, truePeakDbtp: -1 },
  { integratedLufs: null, fromWholeLu: null, truePeakDbtp: null },
];

test('a track sheet is read back by another program as it was, and no title passes for a formula', () => {
  const rows = trackRows(assembly, texts, levels, [{ fileName: 'Record.wav', sha256: 'f'.repeat(64) }]);
  const read = parse(trackSheetCsv(rows)) as string[][];
  expect(read).toHaveLength(3);
  expect(read[1]).toEqual([
    ...['1', 'First, light "live"', 'The Quillmere', 'QDA1A2600001', '', '00:00:00', '00:12:00', '0'],
    ...['-14.26', '0.40', '-1.00', 'Record.wav', 'f'.repeat(64)],
  ]);
  expect(read[2]?.slice(0, 8)).toEqual(['2', "'=2+2", '', '', '00:10:00', '00:12:00', '00:10:00', '529200']);
  expect(read[2]?.slice(8, 11)).toEqual(['', '', '']);
});

test('single files are named each in its own row', () => {
  const files = [
    { fileName: '01.wav', sha256: 'a' },
    { fileName: '02.wav', sha256: 'b' },
  ];
  expect(trackRows(assembly, texts, levels, files).map(({ fileName }) => fileName)).toEqual(['01.wav', '02.wav']);
});
