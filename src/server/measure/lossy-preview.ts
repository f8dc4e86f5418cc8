import { rm } from 'node:fs/promises';
import { decode } from '@/codecs/decode';
import { encode } from '@/codecs/encode';
import { probe } from '@/codecs/probe';
import { resampleWav } from '@/codecs/resample';
import type { Treatment } from '@/core/treatment/treatment';
import { encodeArrays } from '@/formats/array-bundle';
import { MOST_PREVIEW_SECONDS, PREVIEW_CODECS, type PreviewCodecId } from '@/formats/preview-codecs';
import { unprepared, withPrepared } from '@/workers/node/prepare-file';
import type { ServerContext } from '../context';
import { newId } from '../ids';
import { quietly } from '../tasks/runner';
import { openAudio } from './audio';
import { programmeOf } from './limiting';
import { layoutOf } from './measure-source';

/**
 * A span of a programme as a codec leaves it: treated, encoded and decoded again, as a bundle of one array for each
 * channel. Nothing of it is kept.
 *
 * @param span in frames of the source; of a long one the beginning
 */
export async function lossyPreview(
  server: ServerContext,
  programmeId: string,
  treatment: Treatment,
  codec: PreviewCodecId,
  span: { startFrame: number; frames: number },
): Promise<Uint8Array> {
  const { sourceSha256, fileName } = programmeOf(server, programmeId);
  const audio = await openAudio(server, sourceSha256, fileName, quietly());
  const path = (step: string) => server.folder.preview(`${id}.${step}`);
  const id = newId();
  const steps = ['treated', 'encoded', 'decoded', 'heard'] as const;
  const [treatedPath, encodedPath, decodedPath, heardPath] = steps.map(path) as [string, string, string, string];
  try {
    const layoutId = layoutOf(server, sourceSha256);
    const own = { ...treatment, ...spanOnly(span, await rateOf(audio.path)) };
    const job = {
      kind: 'render',
      source: audio.path,
      historyPath: audio.path,
      outputPath: treatedPath,
      fileName,
      treatment: own,
      layoutId,
    } as const;
    await server.listening.run(job, quietly());
    const { sampleRateHz, frames } = await formatOf(treatedPath);
    const format = PREVIEW_CODECS.find(({ id }) => id === codec) ?? PREVIEW_CODECS[0];
    const durationSeconds = frames / sampleRateHz;
    await encode(
      treatedPath,
      encodedPath,
      { ...format, sampleRateHz, integratedLufs: null },
      { fileName, durationSeconds },
    );
    await decode(encodedPath, await probe(encodedPath, fileName), decodedPath, fileName);
    const decoded = await formatOf(decodedPath);
    // Some codecs know one rate only.
    const isOther = decoded.sampleRateHz !== sampleRateHz;
    if (isOther) {
      const job = { fromHz: decoded.sampleRateHz, toHz: sampleRateHz, frames: decoded.frames, fileName };
      await resampleWav(decodedPath, heardPath, job);
    }
    const channels = await readAll(isOther ? heardPath : decodedPath, frames);
    return encodeArrays({
      meta: {},
      arrays: Object.fromEntries(channels.map((samples, channel) => [`channel${channel}`, samples])),
    });
  } finally {
    for (const step of steps) await rm(path(step), { force: true });
  }
}

/** What lies around a span, and what is added there, is not heard with it. */
function spanOnly({ startFrame, frames }: { startFrame: number; frames: number }, rateHz: number): Partial<Treatment> {
  const endFrame = startFrame + Math.min(frames, MOST_PREVIEW_SECONDS * rateHz);
  return { trim: { startFrame, endFrame }, paddingStart: null, paddingEnd: null, fadeIn: null, fadeOut: null };
}

const formatOf = (path: string) => withPrepared(unprepared(path), {}, async ({ format }) => format);
const rateOf = async (path: string) => (await formatOf(path)).sampleRateHz;

/** Every channel, so many frames long: what a codec has put behind is left out. */
function readAll(path: string, frames: number): Promise<Float32Array[]> {
  return withPrepared(unprepared(path), {}, async (reader) => {
    const channels = Array.from({ length: reader.format.channels }, () => new Float32Array(frames));
    for (let piece = await reader.next(); piece; piece = await reader.next()) {
      const at = reader.frame - piece.frames;
      piece.channels.forEach((samples, channel) => {
        const left = frames - at;
        if (left > 0) channels[channel]?.set(samples.subarray(0, left), at);
      });
    }
    return channels;
  });
}
