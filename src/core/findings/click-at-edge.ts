import { amplitudeToDb } from '../units/decibel';
import { formatLevel, formatNumber } from '../units/format';
import { advice, defineFinding } from './finding';

export const clickAtEdge = defineFinding({
  code: 'click-at-edge',
  step: 'fadeIn',
  criterion:
    'the first or last sample stands at −40 dBFS or more, or a spike within 20 ms bends 20 times as much as all around it',
  placeName: 'Click',
  look({ inspection: { edges }, readings: { perChannel }, facts: { sampleRateHz, frames } }) {
    const [first] = edges;
    if (!first) return null;
    const label = (channel: number) => perChannel[channel]?.label ?? String(channel + 1);
    const words = edges.map(({ edge, kind, channel, height, frames: inwards }) => {
      const level = formatLevel(amplitudeToDb(height), 'dBFS');
      const subject = perChannel.length > 1 ? label(channel) : 'the waveform';
      if (kind === 'step') return `${subject} ${edge === 'start' ? 'begins' : 'ends'} with a step of ${level}`;
      return `${subject} has a spike of ${level} ${formatNumber((1000 * inwards) / sampleRateHz)} ms from the ${edge}`;
    });
    const where = edges.some(({ edge }) => edge !== first.edge) ? 'start and the end' : first.edge;
    return advice(
      `Click at the ${where}: ${words.join(', ')}. A short fade removes it.`,
      edges.map(({ edge, channel, frames: inwards }) => ({
        startFrame: edge === 'start' ? inwards : frames - 1 - inwards,
        frames: 1,
        channel: label(channel),
      })),
    );
  },
});
