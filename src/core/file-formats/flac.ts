import type { FileFormat } from './file-format';

/** What coding leaves of a sample's bits beyond those that its level fills: noise that nothing predicts. From memory. */
const RESIDUAL_BITS = -1.5;

export const flac: FileFormat = {
  name: 'FLAC',
  extensions: ['flac'],
  mediaType: 'audio/flac',
  matches: ({ container }) => container === 'FLAC',
  depths: [24, 16],
  ratesHz: null,
  mostChannels: 8,
  modes: [],
  bitRatesKbps: {},
  defaultKbps: null,
  tags: 'library',
  loudnessTags: 'replay-gain',
  chapters: 'comments',
  hasCueSheet: true,
  hasAdm: false,
  statesLength: true,
  bitsPerSample: (bitDepth, rmsDbfs) =>
    rmsDbfs === null ? 0 : Math.min(bitDepth, Math.max(1, bitDepth + rmsDbfs / 6.02 + RESIDUAL_BITS)),
  headerBytes: 8300,
  encoder: { arguments: () => ['-c:a', 'flac', '-f', 'flac'] },
};
