import type { Inspection } from '../inspection/inspection';
import type { Readings } from '../loudness/readings';
import { amplitudeToDb } from '../units/decibel';
import { formatLevel, formatNumber, formatSampleRate, formatTime } from '../units/format';
import { advice, type Finding, type Place } from './finding';
import type { SourceFacts } from './source-facts';

/** Spoken word is asked to stand on less noise than this (audiobook shops; common practice, no source). */
const LEAST_NOISE_DBFS = -60;
/** Noise that is so near to the programme is a part of it. */
const LEAST_UNDER_PROGRAMME_DB = 15;
/** What a second look at chosen places tells. */
export function inspectionFindings(
  { rmsDbfs, perChannel }: Readings,
  inspection: Inspection,
  facts: SourceFacts,
): Finding[] {
  const { bandEdgeHz, singleRateDropDb, edges, pause } = inspection;
  const { sampleRateHz, bitDepth, usedBits, frames } = facts;
  const found: Finding[] = [];
  const isLossy = bitDepth === null;
  if (bandEdgeHz !== null && !isLossy) {
    found.push(
      advice(
        'band-edge',
        `Low-pass at ${formatNumber(bandEdgeHz / 1000)} kHz: probably from a lossy file, though this one is lossless. Ask for the original.`,
      ),
    );
  }
  if (singleRateDropDb !== null && !isLossy) {
    found.push(
      advice(
        'upsampled',
        `Upsampled: the spectrum drops by ${formatNumber(singleRateDropDb, 0)} dB at 24 kHz, though the file is at ${formatSampleRate(sampleRateHz)}. Ask for the original rate; this file is only larger.`,
      ),
    );
  }
  if (usedBits !== null && bitDepth !== null && usedBits <= bitDepth - 8) {
    found.push(
      advice(
        'unused-bits',
        `A ${bitDepth}-bit file whose lowest ${bitDepth - usedBits} bits are never set: it holds ${usedBits}-bit sound. Is there a mix of higher resolution?`,
      ),
    );
  }
  if (edges.length > 0) {
    const label = (channel: number) => perChannel[channel]?.label ?? String(channel + 1);
    const words = edges.map(({ edge, kind, channel, height, frames: inwards }) => {
      const level = formatLevel(amplitudeToDb(height), 'dBFS');
      const subject = perChannel.length > 1 ? label(channel) : 'the waveform';
      if (kind === 'step') return `${subject} ${edge === 'start' ? 'begins' : 'ends'} with a step of ${level}`;
      return `${subject} has a spike of ${level} ${formatNumber((1000 * inwards) / sampleRateHz)} ms from the ${edge}`;
    });
    const places = edges.map(
      ({ edge, channel, frames: inwards }): Place => ({
        startFrame: edge === 'start' ? inwards : frames - 1 - inwards,
        frames: 1,
        channel: label(channel),
      }),
    );
    found.push(
      advice(
        'click-at-edge',
        `Click at the ${edges.length > 1 && edges.some(({ edge }) => edge !== edges[0]?.edge) ? 'start and the end' : edges[0]?.edge}: ${words.join(', ')}. A short fade removes it.`,
        places,
      ),
    );
  }
  if (
    pause?.isNoise &&
    pause.rmsDbfs > LEAST_NOISE_DBFS &&
    rmsDbfs !== null &&
    pause.rmsDbfs <= rmsDbfs - LEAST_UNDER_PROGRAMME_DB
  ) {
    const { startFrame } = pause;
    found.push(
      advice(
        'noise-floor',
        `Noise floor in pauses: ${formatLevel(pause.rmsDbfs, 'dBFS')} RMS, unweighted (at ${formatTime(startFrame / sampleRateHz, { milliseconds: true })}). Gain raises it too.`,
        [{ startFrame, frames: pause.frames, channel: null }],
      ),
    );
  }
  return found;
}
