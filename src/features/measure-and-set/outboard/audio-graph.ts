import { MOST_DELAY_SECONDS } from '@/core/outboard/pass';
import { dbToAmplitude } from '@/core/units/decibel';
import { outboardMessages as messages } from './messages';

/** What stands in for gear where there is none: a gain, a delay and the noise of converters. */
export interface SimulatedGear {
  gainDb: number;
  delayMs: number;
  noiseDbfs: number;
}

const NOISE_SECONDS = 2;

/** Some outputs of a device that may have many. */
export function toOutputs(context: AudioContext, played: AudioNode, channels: number, firstOutput: number): void {
  const { destination } = context;
  if (firstOutput === 0) {
    played.connect(destination);
    return;
  }
  const outputs = destination.maxChannelCount;
  if (firstOutput + channels > outputs) throw new Error(messages.noSuchOutput(outputs));
  destination.channelCount = outputs;
  destination.channelInterpretation = 'discrete';
  const splitter = new ChannelSplitterNode(context, { numberOfOutputs: channels });
  const merger = new ChannelMergerNode(context, { numberOfInputs: outputs });
  played.connect(splitter);
  for (let channel = 0; channel < channels; channel++) splitter.connect(merger, channel, firstOutput + channel);
  merger.connect(destination);
}

/** The simulated gear, between what is played and what comes back. */
export function throughGear(
  context: AudioContext,
  played: AudioNode,
  { gainDb, delayMs, noiseDbfs }: SimulatedGear,
  sampleRateHz: number,
  channels: number,
): AudioNode {
  const gain = new GainNode(context, { gain: dbToAmplitude(gainDb) });
  const delayFrames = Math.round((delayMs / 1000) * sampleRateHz);
  const delay = new DelayNode(context, { maxDelayTime: MOST_DELAY_SECONDS, delayTime: delayFrames / sampleRateHz });
  const noise = new AudioBuffer({
    length: NOISE_SECONDS * sampleRateHz,
    numberOfChannels: channels,
    sampleRate: sampleRateHz,
  });
  // Of evenly spread numbers the RMS is 1/√3 of the greatest.
  const greatest = Math.sqrt(3) * dbToAmplitude(noiseDbfs);
  for (let channel = 0; channel < channels; channel++) {
    const samples = noise.getChannelData(channel);
    for (let i = 0; i < samples.length; i++) samples[i] = greatest * (2 * Math.random() - 1);
  }
  const hiss = new AudioBufferSourceNode(context, { buffer: noise, loop: true });
  const returned = new GainNode(context);
  played.connect(gain).connect(delay).connect(returned);
  hiss.connect(returned);
  hiss.start();
  return returned;
}
