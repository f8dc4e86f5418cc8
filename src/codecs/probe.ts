import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { framesAfterMidnight } from '@/core/units/time-code';
import type { AudioFormat } from '@/formats/audio-format';
import { addMarker, addTag, type Metadata, noMetadata } from '@/formats/metadata';
import { type MpegBitRate, MpegFrameCounter } from '@/formats/mp3/bit-rate';
import { checkMeasurable } from '@/formats/pcm-header';
import { codecOf, containerOf } from './codecs';
import { INPUT_GUARDS, inputUrl, runFfmpeg } from './ffmpeg';
import { pictureOf, statedTimeCode } from './film';

/** What is asked for is answered in a fraction of a second; somebody waits for it. */
const PROBE_TIMEOUT_MS = 10_000;
const MOST_OUTPUT = 4_000_000;
const REMEMBERED_FILES = 16;

const numeric = z.coerce.number().optional();

const tagsSchema = z.record(z.string(), z.string()).optional();

const streamSchema = z.object({
  codec_type: z.string(),
  codec_name: z.string().optional(),
  sample_fmt: z.string().optional(),
  sample_rate: numeric,
  channels: z.int().optional(),
  bits_per_sample: numeric,
  bits_per_raw_sample: numeric,
  bit_rate: numeric,
  duration: numeric,
  start_time: numeric,
  width: numeric,
  height: numeric,
  avg_frame_rate: z.string().optional(),
  disposition: z.object({ attached_pic: z.int() }).partial().optional(),
  tags: tagsSchema,
});

const chapterSchema = z.object({ start_time: numeric, end_time: numeric, tags: tagsSchema });

const outputSchema = z.object({
  streams: z.array(streamSchema).default([]),
  chapters: z.array(chapterSchema).default([]),
  format: z
    .object({
      format_name: z.string(),
      duration: numeric,
      bit_rate: numeric,
      tags: tagsSchema,
    })
    .optional(),
});

type Stream = z.infer<typeof streamSchema>;
type Output = z.infer<typeof outputSchema>;

/** What FFmpeg said of the last files, by their bytes: one that is taken in or written is asked of twice, and starting FFmpeg takes longest. */
const answers = new Map<string, Output>();

/** What FFmpeg will decode a file to. */
export interface Probed {
  /** As the file states it; its frames are counted when it is decoded. */
  format: AudioFormat;
  /** FFmpeg's names for the codec and for the samples that it is decoded to; floats of 64 bits become 32, as they are measured. */
  codecName: string;
  sampleCodec: 'pcm_s16le' | 'pcm_s24le' | 'pcm_s32le' | 'pcm_f32le';
}

/**
 * Has FFmpeg look at a file, and describes one of its sound tracks.
 *
 * @param track counted from 1
 * @throws AppError `not-audio`, `no-sound-track`, `ffmpeg-missing` or one of a header that can't be measured
 */
export async function probe(path: string, fileName: string, track = 1): Promise<Probed> {
  const { streams, format: file } = await ask(path, fileName);
  const tracks = streams.filter(({ codec_type }) => codec_type === 'audio');
  const stream = tracks[track - 1];
  const codec = codecOf(stream?.codec_name ?? '');
  if (!file || !stream?.codec_name || !codec || !stream.sample_rate || !stream.channels) {
    throw new AppError('no-sound-track', { fileName });
  }
  const { sample_rate: sampleRateHz, channels } = stream;
  checkMeasurable({ channels, sampleRateHz }, fileName);
  const durationSeconds = stream.duration ?? file.duration ?? 0;
  const { sampleFormat, bitDepth } = samplesOf(stream);
  const container = containerOf(file.format_name, file.tags?.major_brand);
  const told = container === 'MPEG audio' ? await frameBitRate(path) : undefined;
  return {
    format: {
      container,
      codec: codec.name,
      sampleRateHz,
      bitDepth: codec.isLossless ? bitDepth : null,
      sampleFormat: codec.isLossless ? sampleFormat : 'float',
      bitRateBps: codec.isLossless ? null : (told?.bitRateBps ?? stream.bit_rate ?? file.bit_rate ?? null),
      ...(told ? { bitRateMode: told.mode } : {}),
      channels,
      channelMask: 0,
      layout: channelLayout(channels, 0).name,
      frames: Math.round(durationSeconds * sampleRateHz),
      durationSeconds,
      track: tracks.length > 1 ? { number: track, of: tracks.length } : null,
      decodeErrors: 0,
    },
    codecName: stream.codec_name,
    sampleCodec: !codec.isLossless || sampleFormat === 'float' ? 'pcm_f32le' : integerCodec(bitDepth),
  };
}

async function frameBitRate(path: string): Promise<MpegBitRate | undefined> {
  const counter = new MpegFrameCounter();
  for await (const piece of createReadStream(path, { highWaterMark: 1 << 20 })) counter.push(piece);
  return counter.result();
}

/** The tags and chapters of a file that FFmpeg opens, the tags under its names for them. */
export async function probeMetadata(
  path: string,
  fileName: string,
  { sampleRateHz, track }: AudioFormat,
): Promise<Metadata> {
  const { streams, chapters, format } = await ask(path, fileName);
  const stream = streams.filter(({ codec_type }) => codec_type === 'audio')[(track?.number ?? 1) - 1];
  const metadata = noMetadata();
  for (const [name, value] of Object.entries({ ...format?.tags, ...stream?.tags })) {
    addTag(metadata, name.charAt(0).toUpperCase() + name.slice(1).replaceAll('_', ' '), value);
  }
  metadata.picture = pictureOf(streams);
  const stated = statedTimeCode(streams, format?.tags);
  if (stated) {
    const startSeconds = await firstFrameSeconds(path, fileName, track?.number ?? 1);
    const offsetFrames = Math.round((startSeconds - stated.atSeconds) * sampleRateHz);
    metadata.timeCode = { ...stated.at, offsetFrames };
    metadata.timeReferenceFrames = framesAfterMidnight(metadata.timeCode, sampleRateHz);
  }
  for (const [i, { start_time = 0, end_time = start_time, tags }] of chapters.entries()) {
    const frame = Math.round(start_time * sampleRateHz);
    const lengthFrames = Math.max(0, Math.round(end_time * sampleRateHz) - frame);
    addMarker(metadata, { frame, lengthFrames, label: tags?.title || `chapter ${i + 1}` });
  }
  return metadata;
}

/** When the first frame sounds that is decoded of a sound track: what its coder put ahead of it is left out, and may be timed before 0. */
async function firstFrameSeconds(path: string, fileName: string, track: number): Promise<number> {
  const first = ['-select_streams', `a:${track - 1}`, '-show_entries', 'frame=pts_time', '-read_intervals', '%+#2'];
  const args = ['-v', 'error', ...INPUT_GUARDS, ...first, '-of', 'csv=p=0', inputUrl(path)];
  let output = '';
  await runFfmpeg('ffprobe', args, fileName, {
    timeoutMs: PROBE_TIMEOUT_MS,
    onOutput: (text) => {
      output += text.slice(0, MOST_OUTPUT - output.length);
    },
  });
  return Number.parseFloat(output) || 0;
}

async function ask(path: string, fileName: string): Promise<Output> {
  const bytes = await identityOf(path);
  const known = bytes === undefined ? undefined : answers.get(bytes);
  if (known) return known;
  const answer = await askFfmpeg(path, fileName);
  // Not of one that was written meanwhile.
  if (bytes !== undefined && bytes === (await identityOf(path))) {
    answers.set(bytes, answer);
    const [oldest] = answers.keys();
    if (oldest !== undefined && answers.size > REMEMBERED_FILES) answers.delete(oldest);
  }
  return answer;
}

/** Other bytes have another: whatever writes to a file changes it, and nobody can set it. */
async function identityOf(path: string): Promise<string | undefined> {
  const found = await stat(path, { bigint: true }).catch(() => undefined);
  return found && [found.dev, found.ino, found.size, found.ctimeNs].join(' ');
}

async function askFfmpeg(path: string, fileName: string): Promise<Output> {
  const args = [
    '-v',
    'error',
    ...INPUT_GUARDS,
    '-show_streams',
    '-show_format',
    '-show_chapters',
    '-of',
    'json',
    inputUrl(path),
  ];
  let output = '';
  try {
    await runFfmpeg('ffprobe', args, fileName, {
      timeoutMs: PROBE_TIMEOUT_MS,
      onOutput: (text) => {
        output += text;
        if (output.length > MOST_OUTPUT) throw new AppError('not-audio', { fileName });
      },
    });
    return outputSchema.parse(JSON.parse(output));
  } catch (error) {
    // Whatever it says of a file that it can't open, to a person it is one thing.
    if (error instanceof AppError && error.code !== 'decode-failed') throw error;
    throw new AppError('not-audio', { fileName }, { cause: error });
  }
}

function samplesOf(stream: Stream): { sampleFormat: AudioFormat['sampleFormat']; bitDepth: number } {
  const kind = stream.sample_fmt?.replace(/p$/, '');
  if (kind === 'flt' || kind === 'dbl') return { sampleFormat: 'float', bitDepth: kind === 'flt' ? 32 : 64 };
  const container = kind === 's32' ? 32 : kind === 'u8' ? 8 : 16;
  return { sampleFormat: 'integer', bitDepth: stream.bits_per_raw_sample || stream.bits_per_sample || container };
}

function integerCodec(bitDepth: number): Probed['sampleCodec'] {
  if (bitDepth <= 16) return 'pcm_s16le';
  return bitDepth <= 24 ? 'pcm_s24le' : 'pcm_s32le';
}
