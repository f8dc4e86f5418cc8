/**
 * Eight specs by six programmes, through the server's own prediction and writing: what is predicted is what comes, loudness
 * within 0.1 LU of the target wherever that can be reached, peaks by FFmpeg at 192 kHz no more than 0.05 dB over.
 */
import { join } from 'node:path';
import { ambience, music, normalise, speech } from '@/cli/demo/synth';
import { type DeliveryFormatInput, deliveryFormatSchema } from '@/core/delivery/format';
import { isLossy } from '@/core/file-formats/file-formats';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { specPeak } from '@/core/spec/requirements/peak';
import { addRow, predictionOf } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { viewJob } from '@/server/jobs/jobs';
import { ffmpegTruePeakDbtp } from '../fixtures/command';
import { surround } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

const SECONDS = 9;
const faded = (planar: Float32Array[], rate: number) =>
  planar.map((samples) => samples.map((x, n) => x * Math.min(1, n / 2000, (samples.length - n) / (rate / 20))));

const sections = [
  { startSeconds: 0, level: 0.4, drums: 0.2 },
  { startSeconds: 3, level: 1.2, drums: 0.9 },
];

interface Source {
  name: string;
  sampleRateHz: number;
  make: () => Float32Array[];
}

const SOURCES: readonly Source[] = [
  { name: 'overture', sampleRateHz: 48_000, make: () => normalise(music(SECONDS, 48_000, sections, 3), 0.98) },
  { name: 'quiet piece', sampleRateHz: 44_100, make: () => normalise(music(SECONDS, 44_100, sections, 9), 0.05) },
  { name: 'episode', sampleRateHz: 48_000, make: () => normalise([speech(SECONDS, 48_000, 8)], 0.7) },
  { name: 'ambient bed', sampleRateHz: 96_000, make: () => normalise(ambience(SECONDS, 96_000), 0.6) },
  { name: 'closing titles', sampleRateHz: 48_000, make: () => surround().map((own) => own.slice(0, SECONDS * 48_000)) },
  {
    name: 'tones',
    sampleRateHz: 44_100,
    make: () =>
      [220, 331].map((hz) =>
        Float32Array.from({ length: SECONDS * 44_100 }, (_, n) => 0.3 * Math.sin((n * hz) / 7019)),
      ),
  },
];

/** What each spec is written as: from one programme to the next, where it can be. */
const SPECS: readonly { specId: string; formats: readonly [DeliveryFormatInput, ...DeliveryFormatInput[]] }[] = [
  { specId: 'ebu-r128', formats: [{ kind: 'wav' }, { kind: 'flac' }] },
  { specId: 'atsc-a85', formats: [{ kind: 'flac', bitDepth: 16 }, { kind: 'aiff' }] },
  {
    specId: 'arib-tr-b32',
    formats: [
      { kind: 'wav', bitDepth: 16, sampleRateHz: 44_100 },
      { kind: 'bw64', bitDepth: 32 },
    ],
  },
  {
    specId: 'op-59',
    formats: [
      { kind: 'aiff', sampleRateHz: 48_000 },
      { kind: 'wav', arrangement: 'split' },
    ],
  },
  { specId: 'podcast-stereo', formats: [{ kind: 'mp3', bitRateKbps: 192, sampleRateHz: 44_100 }] },
  { specId: 'streaming-music', formats: [{ kind: 'flac' }, { kind: 'm4a', bitRateKbps: 256, sampleRateHz: 48_000 }] },
  { specId: 'aes-td1008-speech', formats: [{ kind: 'opus', bitRateKbps: 128, sampleRateHz: 48_000 }] },
  { specId: 'audiobook-retail', formats: [{ kind: 'mp3', bitRateKbps: 192, sampleRateHz: 48_000 }] },
];

const host = new TestServer();
afterAll(() => host.remove());

test.each(SOURCES)('$name lands on every spec', async ({ name, sampleRateHz, make }) => {
  const index = SOURCES.findIndex((own) => own.name === name);
  const channels = faded(make(), sampleRateHz);
  const { programmeId } = await host.measured(wavOf(channels, { sampleRateHz }), `${name}.wav`);
  const predictions = new Map<string, Awaited<ReturnType<typeof predictionOf>>>();
  for (const { specId, formats } of SPECS) {
    let format = deliveryFormatSchema.parse(formats[index % formats.length]);
    // Six channels are more than MP3 holds.
    if (channels.length > 2 && format.kind === 'mp3') format = deliveryFormatSchema.parse({ kind: 'flac' });
    const row = addRow(host.server, {
      programmeId,
      specId,
      format,
      levelMode: { kind: 'solved', maxReductionDb: 9, marginDb: 0 },
    });
    predictions.set(await writeRow(host.server, row.id), await predictionOf(host.server, row));
  }
  await host.server.runner.whenIdle();
  const programme = viewJob(host.server, host.jobId).programmes.find(({ id }) => id === programmeId);
  expect(programme?.deliveries).toHaveLength(SPECS.length);
  for (const { id, spec, written, task, files, format } of programme?.deliveries ?? []) {
    const prediction = predictions.get(id);
    const told = `${name} for ${spec.id} as ${format?.kind}`;
    expect({ told, error: task?.error ?? null }).toEqual({ told, error: null });
    if (!written || !prediction || !format) throw new Error(`${told} was not written`);
    const loudness = specLoudness(written.readings, spec) ?? Number.NaN;
    const peak = specPeak(written.readings, spec) ?? Number.NaN;
    const isLossless = !isLossy(format.kind);
    const isReached = prediction.stop === null && spec.loudness;
    expect({
      told,
      isNear: !isReached || Math.abs(loudness - (spec.loudness?.target ?? 0)) <= 0.1,
      loudness,
    }).toMatchObject({ told, isNear: true });
    // What can not be reached lands where it was predicted.
    if (isLossless) {
      const predicted = specLoudness(prediction.readings, spec) ?? Number.NaN;
      expect({ told, isAsPredicted: Math.abs(loudness - predicted) <= 0.1, loudness, predicted }).toMatchObject({
        isAsPredicted: true,
      });
    }
    expect({ told, isUnder: peak <= spec.peak.ceiling + 0.02, peak }).toMatchObject({ told, isUnder: true });
    if (spec.peak.measure === 'true' && files.length === 1) {
      const path = join(host.root, 'deliveries', host.jobId, files[0]?.fileName ?? '');
      const judged = ffmpegTruePeakDbtp(path);
      expect({ told, isUnder: judged <= spec.peak.ceiling + 0.05, judged }).toMatchObject({ told, isUnder: true });
    }
  }
});
