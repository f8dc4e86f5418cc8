/** The broadcast chunk of WAV, read as other tools write it and written so that they read it. */

import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { bextWithHistory, parseBext } from '@/formats/wav/bext';
import { historyLine, treatedBefore } from '@/formats/wav/coding-history';
import { bext, metadataOf, wavWith } from '../fixtures/chunk-bodies';
import { bytesOf, ffmpeg, material } from '../fixtures/ffmpeg';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bext-'));
afterAll(() => rmSync(folder, { recursive: true }));
const at = (name: string) => join(folder, name);

describe('bext', () => {
  test.each([0, 1])('version %i: texts, time reference of 64 bits, no loudness', async (version) => {
    const found = await metadataOf(wavWith([{ id: 'bext', body: bext(version, { loudness: [-2300, 500] }) }]));
    expect(found.tags).toEqual([
      { name: 'Description', value: 'A hall' },
      { name: 'Originator', value: 'Recorder' },
      { name: 'Reference', value: 'REF-7' },
      { name: 'Recorded', value: '2026-10-02 09:30:00' },
    ]);
    expect(found.timeReferenceFrames).toBe(2 ** 32 + 1_641_600_000);
    expect(found.statedLoudness).toBeNull();
  });

  test('version 2: loudness in hundredths, the history by lines', async () => {
    const history = 'A=ANALOGUE,M=stereo,T=hall\r\nA=PCM,F=48000,W=24,M=stereo,T=desk\r\n\0\0';
    const body = bext(2, { loudness: [-2295, 720, -104, -1800, 0x7fff], history });
    const found = await metadataOf(wavWith([{ id: 'bext', body }]));
    expect(found.statedLoudness).toEqual({
      integratedLufs: -22.95,
      loudnessRangeLu: 7.2,
      truePeakDbtp: -1.04,
      maxMomentaryLufs: -18,
      maxShortTermLufs: null,
    });
    expect(found.codingHistory).toEqual(['A=ANALOGUE,M=stereo,T=hall', 'A=PCM,F=48000,W=24,M=stereo,T=desk']);
  });

  test('one that claims version 2 and fills nothing in states nothing', async () => {
    expect((await metadataOf(wavWith([{ id: 'bext', body: bext(2) }]))).statedLoudness).toBeNull();
  });

  test('one cut short says nothing, and is listed', async () => {
    const found = await metadataOf(wavWith([{ id: 'bext', body: bext(1).subarray(0, 600) }]));
    expect(found).toMatchObject({ tags: [], timeReferenceFrames: null });
    expect(found.chunks).toContainEqual({ id: 'bext', bytes: 600 });
  });

  test('as FFmpeg writes it', async () => {
    ffmpeg(
      ...material(2, 48_000, 4800),
      ...[
        '-c:a',
        'pcm_s24le',
        '-write_bext',
        '1',
        '-metadata',
        'description=Dome hall',
        '-metadata',
        'originator=desk',
      ],
      ...[
        '-metadata',
        'time_reference=123456789',
        '-metadata',
        'coding_history=A=PCM,T=first',
        '-metadata',
        'title=Hall',
      ],
      at('bext.wav'),
    );
    const found = await metadataOf(bytesOf(at('bext.wav')));
    expect(found.tags).toEqual(
      expect.arrayContaining([
        { name: 'Description', value: 'Dome hall' },
        { name: 'Originator', value: 'desk' },
        { name: 'Title', value: 'Hall' },
      ]),
    );
    expect(found).toMatchObject({ timeReferenceFrames: 123_456_789, codingHistory: ['A=PCM,T=first'] });
  });

  test('what we write is read by FFmpeg, and its history is known again', () => {
    const line = historyLine({ sampleRateHz: 48_000, bitDepth: 24, channels: 2, gainDb: -4.56 });
    expect(line).toBe('A=PCM,F=48000,W=24,M=stereo,T=Opsimeter; gain -4.6 dB');
    const old = bext(1, { history: 'A=ANALOGUE,T=tape\r\n' });
    const body = bextWithHistory(old, line);
    writeFileSync(at('ours.wav'), wavWith([{ id: 'bext', body: Buffer.from(body) }]));
    const { stdout } = spawnSync('ffprobe', ['-v', 'error', '-show_format', '-of', 'json', at('ours.wav')]);
    const { tags } = JSON.parse(stdout.toString()).format;
    // Its own names for description and originator.
    expect(tags).toMatchObject({ comment: 'A hall', encoded_by: 'Recorder', originator_reference: 'REF-7' });
    expect(tags.time_reference).toBe(String(2 ** 32 + 1_641_600_000));
    expect(tags.coding_history).toContain(line);
    const parsed = parseBext(body, true);
    expect(parsed).toMatchObject({ version: 2, loudness: null, codingHistory: ['A=ANALOGUE,T=tape', line] });
    expect(treatedBefore(parsed?.codingHistory ?? [])).toBe('gain −4.6 dB');
    const twice = parseBext(
      bextWithHistory(body, historyLine({ sampleRateHz: 48_000, bitDepth: 24, channels: 1, gainDb: 2 })),
      true,
    );
    expect(treatedBefore(twice?.codingHistory ?? [])).toBe('gain −4.6 dB, then gain +2.0 dB');
    expect(treatedBefore(['A=PCM,T=Opsi; gain -4.6 dB'])).toBeNull();
    expect(parseBext(bextWithHistory(undefined, line), true)).toMatchObject({ originator: 'Opsimeter' });
  });
});
