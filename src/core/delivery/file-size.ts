import type { Readings } from '../loudness/readings';
import type { ResolvedFormat } from './format';

/** How large a file will be. */
export interface FileSize {
  bytes: number;
  /** Known before it is written; else it is a guess. */
  isExact: boolean;
}

const PCM_HEADER_BYTES = 1200;
const FLAC_HEADER_BYTES = 8300;
/** What coding leaves of a sample's bits beyond those that its level fills: noise that nothing predicts. From memory. */
const FLAC_RESIDUAL_BITS = -1.5;

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
  if (kind !== 'flac') return { bytes: PCM_HEADER_BYTES + (samples * bitDepth) / 8, isExact: true };
  const bits = rmsDbfs === null ? 0 : Math.min(bitDepth, Math.max(1, bitDepth + rmsDbfs / 6.02 + FLAC_RESIDUAL_BITS));
  return { bytes: FLAC_HEADER_BYTES + (samples * bits) / 8, isExact: false };
}
