import { CAPTURE_NAME, type CapturedFrames, type CaptureOptions } from '@/workers/browser/capture-messages';
import { FrameNumbers } from './frame-numbers';

/** What a browser has that gives the frames of a device as they come, and no library declares. */
declare class MediaStreamTrackProcessor {
  constructor(options: { track: MediaStreamTrack; maxBufferSize: number });
  readonly readable: ReadableStream<AudioData>;
}

/** Of a device's parts, which are of 10 ms mostly: a page that is busy for seconds loses nothing. */
const MOST_BUFFERED = 1000;

/** Frames of an input as they come. */
export interface TrackFrames {
  channels: number;
  sampleRateHz: number;
  /** Hands on all that came since it was opened, and what comes. */
  start(onFrames: (captured: CapturedFrames) => void): void;
  stop(): void;
}

/**
 * Opens the frames of an input, unprocessed. Where the browser gives them with their times, what never came is seen; else they come through a
 * worklet, which counts, and sees only what it was passed over for.
 */
export function trackFrames(stream: MediaStream, track: MediaStreamTrack): Promise<TrackFrames> {
  return 'MediaStreamTrackProcessor' in window ? processed(track) : throughWorklet(stream, track);
}

async function processed(track: MediaStreamTrack): Promise<TrackFrames> {
  const reader = new MediaStreamTrackProcessor({ track, maxBufferSize: MOST_BUFFERED }).readable.getReader();
  const { value: first } = await reader.read();
  if (!first) throw new DOMException('', 'NotReadableError');
  const { sampleRate: sampleRateHz, numberOfChannels: channels } = first;
  const numbers = new FrameNumbers(sampleRateHz);
  const taken = (data: AudioData): CapturedFrames => {
    const frames = data.numberOfFrames;
    const planar = new Float32Array(frames);
    const samples = new Float32Array(frames * channels);
    for (let c = 0; c < Math.min(channels, data.numberOfChannels); c++) {
      data.copyTo(planar, { planeIndex: c, format: 'f32-planar' });
      for (let i = 0; i < frames; i++) samples[i * channels + c] = planar[i] as number;
    }
    const startFrame = numbers.next(data.timestamp, frames);
    data.close();
    return { startFrame, samples };
  };
  const readOn = async (onFrames: (captured: CapturedFrames) => void) => {
    onFrames(taken(first));
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return;
      onFrames(taken(value));
    }
  };
  return {
    channels,
    sampleRateHz,
    start: (onFrames) => void readOn(onFrames).catch(() => undefined),
    stop: () => void reader.cancel().catch(() => undefined),
  };
}

async function throughWorklet(stream: MediaStream, track: MediaStreamTrack): Promise<TrackFrames> {
  // Another rate or number of channels than the device has would be made by calculation.
  const { sampleRate, channelCount: channels = 1 } = track.getSettings();
  const context = new AudioContext({ ...(sampleRate ? { sampleRate } : {}), latencyHint: 'interactive' });
  await context.audioWorklet.addModule('/capture-worklet.js');
  const node = new AudioWorkletNode(context, CAPTURE_NAME, {
    numberOfInputs: 1,
    numberOfOutputs: 0,
    channelCount: channels,
    channelCountMode: 'explicit',
    channelInterpretation: 'discrete',
    processorOptions: {
      taken: Array.from({ length: channels }, (_, channel) => ({ input: 0, channel })),
    } satisfies CaptureOptions,
  });
  return {
    channels,
    sampleRateHz: context.sampleRate,
    start: (onFrames) => {
      node.port.onmessage = ({ data }: MessageEvent<CapturedFrames>) => onFrames(data);
      new MediaStreamAudioSourceNode(context, { mediaStream: stream }).connect(node);
    },
    stop: () => void context.close(),
  };
}
