import { createReadStream } from 'node:fs';
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { framesAfterMidnight } from '@/core/units/time-code';
import type { AudioFormat } from '@/formats/audio-format';
import { addMarker, addTag, type Metadata, noMetadata, type SoundTrack } from '@/formats/metadata';
import { type MpegBitRate, MpegFrameCounter } from '@/formats/mp3/bit-rate';
import { checkMeasurable } from '@/formats/pcm-header';
import { ask, firstFrameSeconds, type Stream, soundStreams } from './ask-ffmpeg';
import { codecOf, containerOf } from './codecs';
import { pictureOf, statedTimeCode } from './film';

/** What FFmpeg will decode a file to. */
export interface Probed {
  /** As the file states it; its frames are counted when it is decoded. */
  format: AudioFormat;
  /** FFmpeg's names for the codec and for the samples that it is decoded to; floats of 64 bits become 32, as they are measured. */
  codecName: string;
  sampleCodec: 'pcm_s16le' | 'pcm_s24le' | 'pcm_s32le' | 'pcm_f32le';
  /** The tracks that are put together, in order, each with how many frames later than the first of them it begins; absent of one alone. */
  joined?: readonly { number: number; channels: number; lateFrames: number }[];
}

/**
 * Has FFmpeg look at a file, and describes one of its sound tracks.
 *
 * @param track counted from 1
 * @throws AppError `not-audio`, `no-sound-track`, `ffmpeg-missing` or one of a header that can't be measured
 */
export async function probe(path: string, fileName: string, track = 1): Promise<Probed> {
  const { streams, format: file } = await ask(path, fileName);
  const tracks = soundStreams(streams);
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
  const stream = soundStreams(streams)[(track?.number ?? 1) - 1];
  const metadata = noMetadata();
  for (const [name, value] of Object.entries({ ...format?.tags, ...stream?.tags })) {
    addTag(metadata, name.charAt(0).toUpperCase() + name.slice(1).replaceAll('_', ' '), value);
  }
  metadata.picture = pictureOf(streams);
  if (track) metadata.tracks = soundStreams(streams).map(soundTrack);
  const stated = statedTimeCode(streams, format?.tags);
  if (stated) {
    let startSeconds = Number.POSITIVE_INFINITY;
    for (const number of track?.joined ?? [track?.number ?? 1]) {
      startSeconds = Math.min(startSeconds, await firstFrameSeconds(path, fileName, number));
    }
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

/** @param index from 0 */
function soundTrack({ codec_name = '', sample_rate, channels, tags }: Stream, index: number): SoundTrack {
  return {
    number: index + 1,
    codec: codecOf(codec_name)?.name ?? codec_name,
    sampleRateHz: sample_rate ?? 0,
    channels: channels ?? 0,
    language: tags?.language && tags.language !== 'und' ? tags.language : null,
    title: tags?.title || null,
  };
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
