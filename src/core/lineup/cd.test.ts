import { planAssembly } from './assembly';
import { assessCd, type CdRecord, isCdAudio } from './cd';

const RATE = 44_100;
/** Twelve tracks of three minutes. */
const record = (change: Partial<CdRecord> = {}, seconds = Array.from({ length: 12 }, () => 180)): CdRecord => ({
  assembly: planAssembly(
    seconds.map((length) => ({ frames: length * RATE, gapSeconds: 0 })),
    RATE,
  ),
  bitDepth: 16,
  channels: 2,
  pregapSeconds: 2,
  isrcs: seconds.map(() => ''),
  ...change,
});
const missed = (own: CdRecord) =>
  assessCd(own).flatMap(({ inside, key, phrase }) => (inside ? [] : [`${key}: ${phrase}`]));

test('a record that a CD takes meets every requirement', () => {
  expect(missed(record())).toEqual([]);
  expect(assessCd(record()).map(({ found }) => found)).toEqual([
    '44.1 kHz, 16 bit, stereo',
    '12',
    'track 1: 180.0 s',
    '36:02',
    'all on whole frames',
    '2.00 s',
    'none',
  ]);
});

test.each<[string, CdRecord, string]>([
  ['24 bit', record({ bitDepth: 24 }), 'cd-format: CD audio must be 44.1 kHz, 16 bit, stereo'],
  ['a lossy file', record({ bitDepth: null }), 'cd-format: CD audio must be 44.1 kHz, 16 bit, stereo'],
  ['mono', record({ channels: 1 }), 'cd-format: CD audio must be 44.1 kHz, 16 bit, stereo'],
  [
    'a hundred tracks',
    record(
      {},
      Array.from({ length: 100 }, () => 30),
    ),
    'cd-tracks: tracks must be 99 at most',
  ],
  ['a track of three seconds', record({}, [180, 3, 180]), 'cd-track-length: shortest track 1.0 s under'],
  ['81 minutes', record({}, [81 * 60]), 'cd-length: length 62.0 s over'],
  [
    'a second ahead of the first',
    record({ pregapSeconds: 1 }),
    'cd-pregap: pause ahead of the first track 1.0 s under',
  ],
])('%s is missed', (_, own, phrase) => expect(missed(own)).toEqual([phrase]));

test('between 74 and 80 minutes it fits, and it is said that not every disc holds it', () => {
  const long = assessCd(record({}, [75 * 60])).find(({ key }) => key === 'cd-length');
  expect(long).toMatchObject({ inside: true, found: '1:15:02, for discs of 80 minutes only' });
});

test('an ISRC that is there twice, or missing from some tracks, is told', () => {
  const isrcs = ['QDA1A2600001', 'QDA1A2600002', 'QDA1A2600001'];
  expect(missed(record({ isrcs }, [60, 60, 60]))).toEqual([expect.stringMatching(/^cd-isrc/)]);
  expect(assessCd(record({ isrcs }, [60, 60, 60])).at(-1)?.found).toBe('QDA1A2600001 is there twice');
  expect(assessCd(record({ isrcs: ['QDA1A2600001', ''] }, [60, 60])).at(-1)?.found).toBe('1 of 2 tracks have none');
});

test('another rate is no CD audio, and has its marks between 588 samples', () => {
  expect(isCdAudio({ sampleRateHz: 48_000, bitDepth: 16, channels: 2 })).toBe(false);
  const assembly = planAssembly(
    [
      { frames: 480_000, gapSeconds: 0 },
      { frames: 480_000, gapSeconds: 0 },
    ],
    48_000,
  );
  expect(missed(record({ assembly, isrcs: ['', ''] }))[0]).toMatch(/^cd-format/);
});
