import * as z from 'zod';
import { dbToAmplitude } from '../../units/decibel';

type Stereo = readonly [Float32Array, Float32Array];

/** What can go wrong with a simulated line. */
export interface Fault<Kind extends string = string> {
  kind: Kind;
  name: string;
  /** What happens, in a sentence. */
  words: string;
  /** What it makes of frames; absent where it is about how they come. */
  spoil?(channels: Stereo, startFrame: number, frames: number, sampleRateHz: number): void;
}

function fault<Kind extends string>(own: Fault<Kind>): Fault<Kind> {
  return own;
}

const HOT_GAIN = dbToAmplitude(18);
const HUM_HZ = 50;
const HUM_LEVEL = dbToAmplitude(-34);

const tooHot = fault({
  kind: 'too-hot',
  name: 'Too hot',
  words: 'Everything is 18 dB louder, and stops at full scale.',
  spoil(channels, _, frames) {
    for (const samples of channels) {
      for (let i = 0; i < frames; i++) samples[i] = Math.max(-1, Math.min(1, HOT_GAIN * (samples[i] as number)));
    }
  },
});

const silence = fault({
  kind: 'silence',
  name: 'Silence',
  words: 'Nothing sounds.',
  spoil(channels, _, frames) {
    for (const samples of channels) samples.fill(0, 0, frames);
  },
});

const channelLost = fault({
  kind: 'channel-lost',
  name: 'Left lost',
  words: 'Nothing sounds on the left.',
  spoil([left], _, frames) {
    left.fill(0, 0, frames);
  },
});

const mono = fault({
  kind: 'mono',
  name: 'Mono',
  words: 'Left and right carry the same sound.',
  spoil([left, right], _, frames) {
    for (let i = 0; i < frames; i++) left[i] = ((left[i] as number) + (right[i] as number)) / 2;
    right.set(left.subarray(0, frames));
  },
});

const hum = fault({
  kind: 'hum',
  name: 'Hum',
  words: 'Hum of 50 Hz with its second and third harmonic.',
  spoil(channels, startFrame, frames, sampleRateHz) {
    for (let i = 0; i < frames; i++) {
      const phase = (2 * Math.PI * HUM_HZ * (startFrame + i)) / sampleRateHz;
      const own = HUM_LEVEL * (Math.sin(phase) + 0.5 * Math.sin(2 * phase) + 0.25 * Math.sin(3 * phase));
      for (const samples of channels) samples[i] = (samples[i] as number) + own;
    }
  },
});

const dropOuts = fault({
  kind: 'drop-outs',
  name: 'Drop-outs',
  words: 'Every 3 s, 40 ms never arrive.',
});

const clockDrift = fault({
  kind: 'clock-drift',
  name: 'Clock drift',
  words: 'The clock of the line runs 500 ppm fast.',
});

const lineBreak = fault({
  kind: 'break',
  name: 'Break',
  words: 'The connection is lost, and can’t be opened again.',
});

const LIST = [tooHot, silence, channelLost, mono, hum, dropOuts, clockDrift, lineBreak] as const;

export type FaultKind = (typeof LIST)[number]['kind'];
export const FAULTS: readonly Fault<FaultKind>[] = LIST;
export const faultKinds = z.array(z.enum(LIST.map(({ kind }) => kind) as [FaultKind, ...FaultKind[]]));

/** Of drop-outs: how often frames are lost, and how many. */
export const DROP_OUT = { everySeconds: 3, seconds: 0.04 };
/** Of clock drift. */
export const DRIFT_PPM = 500;
