import { formatNumber } from '../units/format';
import { advice, defineFinding } from './finding';

export const bandEdge = defineFinding({
  code: 'band-edge',
  criterion:
    'in a lossless file, all of 1.5 kHz below an edge between 10 and 20.2 kHz stands 20 dB over everything more than 400 Hz above it',
  look({ inspection: { bandEdgeHz }, facts }) {
    if (bandEdgeHz === null || facts.bitDepth === null) return null;
    return advice(
      `Low-pass at ${formatNumber(bandEdgeHz / 1000)} kHz: probably from a lossy file, though this one is lossless. Ask for the original.`,
    );
  },
});
