import { channelLayout, type LayoutId } from './loudness/channel-layout';
import { edgesOf } from './loudness/edges';
import { type Measurement, ProgrammeMeter } from './loudness/programme';
import { ReferenceMeter } from './loudness/reference-meter';
import { type Facts, unknown } from './spec/facts';

/** Samples are looked at so many frames at a time. */
const PIECE_FRAMES = 8192;
const LEAST_RATE_HZ = 8000;
const MOST_RATE_HZ = 384_000;
const MOST_CHANNELS = 24;

export interface SampleOptions {
  /** 8,000 to 384,000. */
  sampleRateHz: number;
  /** Which loudspeaker each channel is for; by their number unless it is said. */
  layoutId?: LayoutId;
}

/**
 * Measures a whole programme that is in memory: loudness by ITU-R BS.1770-5 and EBU Tech 3341 and 3342, true peak, and all that is
 * kept to answer later questions.
 *
 * @param channels planar samples, 1 to 24 channels of one length; 1 is full scale
 * @throws RangeError where the channels differ in length, or their number or rate is beyond what is measured
 */
export function measureSamples(
  channels: readonly Float32Array[],
  { sampleRateHz, layoutId }: SampleOptions,
): Measurement {
  const frames = channels[0]?.length ?? 0;
  if (channels.length < 1 || channels.length > MOST_CHANNELS) throw new RangeError('1 to 24 channels are measured');
  if (channels.some(({ length }) => length !== frames)) throw new RangeError('the channels differ in length');
  if (!(sampleRateHz >= LEAST_RATE_HZ && sampleRateHz <= MOST_RATE_HZ)) {
    throw new RangeError('rates from 8,000 to 384,000 Hz are measured');
  }
  const reference = new ReferenceMeter({ sampleRateHz, channels: channels.length, maxFrames: PIECE_FRAMES });
  for (let start = 0; start < frames; start += PIECE_FRAMES) {
    const end = Math.min(frames, start + PIECE_FRAMES);
    reference.process(
      channels.map((samples) => samples.subarray(start, end)),
      end - start,
    );
  }
  const meter = new ProgrammeMeter({ sampleRateHz, layout: channelLayout(channels.length, 0, layoutId) });
  meter.add(reference.finish());
  return meter.finish();
}

/**
 * What is known of samples in memory, to be held against a spec: their levels, edges, length, rate and channels. Which file they are
 * in is not known.
 *
 * @throws RangeError as `measureSamples`
 */
export function factsOfSamples(channels: readonly Float32Array[], options: SampleOptions): Facts {
  const { readings, series } = measureSamples(channels, options);
  const { sampleRateHz, layoutId } = options;
  const isNoFile = unknown('samples in memory are no file');
  return {
    readings,
    channels: channels.length,
    sampleRateHz,
    durationSeconds: (channels[0]?.length ?? 0) / sampleRateHz,
    layout: channelLayout(channels.length, 0, layoutId).name,
    bitDepth: isNoFile,
    file: isNoFile,
    bitRate: isNoFile,
    edges: edgesOf(series.weightedPower),
    tags: isNoFile,
    making: isNoFile,
    invalidSamples: 0,
    damage: [],
    length: null,
  };
}
