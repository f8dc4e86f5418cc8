import { planAssembly } from '@/core/lineup/assembly';
import { cueSheetText } from './cue-sheet';

const record = {
  title: 'Songs for the dome',
  artist: 'The Quillmere',
  catalogNumber: '4006381333931',
  pregapSeconds: 2,
  tracks: [
    { title: 'First "light"', artist: '', isrc: 'QDA1A2600001' },
    { title: 'The long\ndusk', artist: 'A guest', isrc: '' },
  ],
};
const assembly = planAssembly(
  [
    { frames: 441_000, gapSeconds: 2 },
    { frames: 441_000, gapSeconds: 0 },
  ],
  44_100,
);

test('a cue sheet names everything that is known, in the order that readers want', () => {
  expect(cueSheetText(record, assembly, 'Songs.wav').split('\r\n')).toEqual([
    'CATALOG 4006381333931',
    'PERFORMER "The Quillmere"',
    'TITLE "Songs for the dome"',
    'FILE "Songs.wav" WAVE',
    '  TRACK 01 AUDIO',
    `    TITLE "First 'light'"`,
    '    PERFORMER "The Quillmere"',
    '    ISRC QDA1A2600001',
    '    PREGAP 00:02:00',
    '    INDEX 01 00:00:00',
    '  TRACK 02 AUDIO',
    '    TITLE "The long dusk"',
    '    PERFORMER "A guest"',
    '    INDEX 00 00:10:00',
    '    INDEX 01 00:12:00',
    '',
  ]);
});

test('what is not known is left out', () => {
  const text = cueSheetText({ ...record, artist: '', catalogNumber: '', pregapSeconds: 0 }, assembly, 'Songs.mp3');
  expect(text).not.toMatch(/CATALOG|PREGAP|PERFORMER "The/);
  expect(text).toContain('FILE "Songs.mp3" MP3');
});
