import { FILE_FORMATS } from '../file-formats/file-formats';
import type { Readings } from '../loudness/readings';
import type { ResolvedFormat } from './format';

/** How large a file will be. */
export interface FileSize {
  bytes: number;
  /** Known before it is written; else it is a guess. */
  isExact: boolean;
}

/** How large a delivery will be: PCM and constant rates to a kilobyte or two, the rest by what it usually comes to. */
export function fileSize(
  { kind, bitDepth, channels, bitRateKbps, mode, sampleRateHz }: ResolvedFormat,
  frames: number,
  { rmsDbfs }: Pick<Readings, 'rmsDbfs'>,
): FileSize {
  const samples = frames * channels;
  if (bitDepth === null) {
    return { bytes: ((bitRateKbps ?? 0) * 1000 * frames) / sampleRateHz / 8, isExact: mode === 'constant' };
  }
  const { bitsPerSample, headerBytes } = FILE_FORMATS[kind];
  const bits = bitsPerSample?.(bitDepth, rmsDbfs) ?? bitDepth;
  return { bytes: headerBytes + (samples * bits) / 8, isExact: bitsPerSample === undefined };
}
