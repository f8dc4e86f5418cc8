/** What is known of a file of PCM samples before one of them is read, whatever its container. */
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { type SampleEncoding, type SampleType, sampleBytes } from '@/core/units/sample-encoding';
import type { AudioFormat, PcmContainer } from './audio-format';
import type { ByteSource } from './bytes';

const LEAST_RATE_HZ = 8_000;
const GREATEST_RATE_HZ = 384_000;
/** Of a file that is measured as it is. */
const MOST_CHANNELS = 24;
/** Of one that is read: the tracks of an audio definition are more than the loudspeakers that they are rendered for. */
const MOST_TRACKS = 128;

export interface PcmHeader {
  format: AudioFormat;
  encoding: SampleEncoding;
  /** Where the samples begin, and the bytes of one frame. */
  dataOffset: number;
  frameBytes: number;
  /** Frames that the header promises beyond those the file holds. */
  missingFrames: number;
  /** The header states no usable length, as after an interrupted recording; the data run to the end of the file. */
  sizeUnknown: boolean;
}

/** How a header says that its samples are written. */
export interface SampleLayout {
  sampleRateHz: number;
  channels: number;
  channelMask: number;
  /** Bits that are used of each sample's bytes. */
  bitDepth: number;
  type: SampleType;
  isBigEndian: boolean;
}

/** Throws an AppError where a header states channels or a rate that nothing can be done with. */
export function checkMeasurable(
  { channels, sampleRateHz }: Pick<SampleLayout, 'channels' | 'sampleRateHz'>,
  fileName: string,
): void {
  checkReadable({ channels, sampleRateHz }, fileName);
  if (channels > MOST_CHANNELS) throw new AppError('too-many-channels', { fileName, channels });
}

/** Throws an AppError where a header states channels or a rate that no file has. */
export function checkReadable(
  { channels, sampleRateHz }: Pick<SampleLayout, 'channels' | 'sampleRateHz'>,
  fileName: string,
): void {
  if (channels === 0) throw new AppError('no-channels', { fileName });
  if (channels > MOST_TRACKS) throw new AppError('too-many-channels', { fileName, channels });
  if (!(sampleRateHz >= LEAST_RATE_HZ && sampleRateHz <= GREATEST_RATE_HZ)) {
    throw new AppError('unsupported-rate', { fileName, sampleRateHz });
  }
}

/**
 * The header of samples that begin at `dataOffset`. Sizes that lie are bounded by the file.
 *
 * @param statedBytes bytes of samples as the header has them, or undefined where it doesn't know
 */
export function pcmHeader(
  source: ByteSource,
  fileName: string,
  container: PcmContainer,
  { type, isBigEndian, bitDepth, ...layout }: SampleLayout,
  dataOffset: number,
  statedBytes: number | undefined,
): PcmHeader {
  const { sampleRateHz, channels, channelMask } = layout;
  const encoding = { type, isBigEndian };
  const frameBytes = channels * sampleBytes(encoding);
  const presentBytes = source.size - dataOffset;
  const sizeUnknown = statedBytes === undefined || (statedBytes === 0 && presentBytes >= frameBytes);
  const frames = Math.floor((sizeUnknown ? presentBytes : Math.min(statedBytes, presentBytes)) / frameBytes);
  if (frames <= 0) throw new AppError('no-audio', { fileName });
  const statedFrames = sizeUnknown ? frames : Math.floor(statedBytes / frameBytes);
  return {
    format: {
      container,
      codec: 'PCM',
      sampleRateHz,
      bitDepth,
      sampleFormat: type.startsWith('f') ? 'float' : 'integer',
      bitRateBps: null,
      channels,
      channelMask,
      layout: channelLayout(channels, channelMask).name,
      frames,
      durationSeconds: frames / sampleRateHz,
      track: null,
      decodeErrors: 0,
    },
    encoding,
    dataOffset,
    frameBytes,
    missingFrames: statedFrames - frames,
    sizeUnknown,
  };
}
