import { rm } from 'node:fs/promises';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { CROSSFADE } from '@/core/lineup/joined';
import { planRecord } from '@/core/lineup/record';
import { applyFades } from '@/core/treatment/steps/fade';
import type { Limit } from '@/core/treatment/steps/limit';
import { gainOnly, preparationOf, type Treatment } from '@/core/treatment/treatment';
import { PcmReader } from '@/formats/pcm-reader';
import { createWavWriter } from '@/formats/wav/writer';
import { FileSink, FileSource } from '@/workers/node/file-bytes';
import { readStretch } from '@/workers/node/pcm-stretch';
import type { RenderedStretch } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { newId } from '../ids';
import { programmesWhere } from '../jobs/programme-view';
import { layoutOf } from '../measure/measure-source';
import { prepareSource, whileHeld } from '../measure/prepared';
import { quietly } from '../tasks/runner';
import { currentTreatment } from '../treatments/treatments';
import { lineUpOf } from './line-ups';

/** So much is heard of the one that ends, and of the one that begins. */
const HEARD_SECONDS = 5;

/** Where one programme of a line-up passes into the next, as it would be written. */
export interface Transition {
  sampleRateHz: number;
  /** From the first of them on: where the one ends, and where the other begins. */
  endFrame: number;
  startFrame: number;
  channels: Float32Array[];
  /** What limiters take in dB, of each programme evenly spaced over what is heard of it; empty where it has none. */
  reductionDb: [Float32Array, Float32Array];
}

/**
 * Renders the end of a programme, the gap behind it, and the beginning of the next, just as a record of them would be.
 *
 * @throws AppError `not-found` also of the last programme, `not-measured`, or as `planRecord`
 */
export async function renderTransition(server: ServerContext, lineUpId: string, afterId: string): Promise<Transition> {
  const { members, record } = lineUpOf(server, lineUpId);
  const at = members.findIndex(({ programmeId }) => programmeId === afterId);
  const pair = members.slice(at, at + 2);
  if (at < 0 || pair.length < 2) throw new AppError('not-found', { what: 'transition' });
  const ids = pair.map(({ programmeId }) => programmeId);
  const rows = new Map(programmesWhere(server, among(programmes.id, ids)).map((row) => [row.programmes.id, row]));
  const parts = pair.map(({ programmeId, gapSeconds }) => {
    const row = rows.get(programmeId);
    if (!row) throw new AppError('not-found', { what: 'programme' });
    const { title, fileName, sourceSha256 } = row.programmes;
    if (!server.sourceReport(sourceSha256)) throw new AppError('not-measured', { title });
    const treatment = currentTreatment(server, programmeId)?.treatment ?? gainOnly(0);
    return { title, fileName, sourceSha256, gapSeconds, treatment, source: row.sources.format };
  });
  const { treatments, assembly } = planRecord(parts, deliveryFormatSchema.parse({ kind: 'wav' }), record.limit);
  const { sampleRateHz } = assembly;
  const [first, second] = assembly.tracks as [Track, Track];
  const heard = Math.round(HEARD_SECONDS * sampleRateHz);
  const ranges = [
    { startFrame: Math.max(0, first.endFrame - first.startFrame - heard - first.fadeOutFrames), track: first },
    { startFrame: 0, track: second },
  ].map(({ startFrame, track }) => {
    const frames = track.endFrame - track.startFrame;
    return { startFrame, frames: Math.min(frames - startFrame, heard + second.fadeInFrames), track };
  });
  const rendered = await Promise.all(
    ranges.map(({ startFrame, frames }, i) =>
      stretchOf(server, parts[i] as Part, treatments[i] as Treatment, startFrame, frames),
    ),
  );
  const from = (ranges[0] as Range).startFrame;
  const frames = second.startFrame + (ranges[1] as Range).frames - from;
  const channels = joinedOf(rendered, ranges, from, frames);
  const { limit } = record;
  return {
    sampleRateHz,
    endFrame: first.endFrame - from,
    startFrame: second.startFrame - from,
    channels: limit ? await limited(server, channels, sampleRateHz, limit) : channels,
    reductionDb: rendered.map(({ reductionDb }) => reductionDb) as Transition['reductionDb'],
  };
}

type Track = ReturnType<typeof planRecord>['assembly']['tracks'][number];
type Range = { startFrame: number; frames: number; track: Track };
type Part = { fileName: string; sourceSha256: string };

async function stretchOf(
  server: ServerContext,
  { fileName, sourceSha256 }: Part,
  treatment: Treatment,
  startFrame: number,
  frames: number,
): Promise<RenderedStretch> {
  const prepared = await prepareSource(server, sourceSha256, fileName, preparationOf(treatment));
  const source = await prepared.open();
  const { limit } = treatment;
  return whileHeld(prepared, () =>
    server.listening.run(
      {
        kind: 'stretch',
        source,
        fileName,
        layoutId: layoutOf(server, sourceSha256),
        limitingPath: limit ? prepared.limitingPath(limit) : null,
        treatment,
        startFrame,
        frames,
      },
      quietly(),
    ),
  );
}

/** Adds both up, each in its place, with the crossfade between them. */
function joinedOf(
  rendered: readonly RenderedStretch[],
  ranges: readonly Range[],
  from: number,
  frames: number,
): Float32Array[] {
  const sum = (rendered[0] as RenderedStretch).channels.map(() => new Float32Array(frames));
  rendered.forEach(({ channels }, i) => {
    const { startFrame, frames: count, track } = ranges[i] as Range;
    const length = track.endFrame - track.startFrame;
    const fade = (own: number) => (own > 0 ? { frames: own, shape: CROSSFADE } : null);
    // What lies ahead of the first and behind the second is not heard here.
    applyFades(channels, count, startFrame, length, {
      fadeIn: i === 0 ? null : fade(track.fadeInFrames),
      fadeOut: i === 0 ? fade(track.fadeOutFrames) : null,
    });
    const offset = track.startFrame + startFrame - from;
    channels.forEach((samples, channel) => {
      const target = sum[channel] as Float32Array;
      for (let n = 0; n < count; n++) target[offset + n] = (target[offset + n] as number) + (samples[n] as number);
    });
  });
  return sum;
}

/** As one limiter over the whole leaves it. What it still holds from before all this is not known here. */
async function limited(
  server: ServerContext,
  channels: Float32Array[],
  sampleRateHz: number,
  limit: Limit,
): Promise<Float32Array[]> {
  const frames = channels[0]?.length ?? 0;
  const [path, outputPath] = [server.folder.preview(newId()), server.folder.preview(newId())];
  try {
    const sink = await FileSink.create(path);
    const writer = await createWavWriter(sink, {
      sampleRateHz,
      channels: channels.length,
      channelMask: 0,
      frames,
      bitDepth: 32,
    });
    await writer.write(channels, frames, 1);
    await writer.finish();
    await sink.finish();
    await server.listening.run(
      {
        kind: 'render',
        source: path,
        historyPath: path,
        outputPath,
        fileName: path,
        treatment: { ...gainOnly(0), limit, dither: 'none' },
        layoutId: null,
        bitDepth: 32,
        tags: NO_TAGS,
      },
      quietly(),
    );
    const source = await FileSource.open(outputPath);
    try {
      return await readStretch(await PcmReader.open(source, outputPath), 0, frames);
    } finally {
      await source.close();
    }
  } finally {
    for (const own of [path, outputPath]) await rm(own, { force: true });
  }
}
