/** Runs in a page: what its player would hear of a treatment, as fast as the browser can make it. */

import type { Treatment } from '@/core/treatment/treatment';
import { type Listened, playableOf } from '@/features/measure-and-set/audition/playable';
import { type ToWorklet, WORKLET_NAME, type WorkletOptions } from '@/workers/browser/audition-messages';

const PART_FRAMES = 65_536;

/** Each channel's samples, as base64 of little-endian floats. */
export async function heardOffline(listened: Listened, treatment: Treatment, rateHz: number): Promise<string[]> {
  const { version, fetchFrames, fetchReduction } = playableOf(listened, treatment, rateHz, 0);
  const { signal } = new AbortController();
  const messages: ToWorklet[] = [];
  for (let startFrame = 0; startFrame < version.frames; startFrame += PART_FRAMES) {
    const stretch = { startFrame, frames: Math.min(PART_FRAMES, version.frames - startFrame) };
    messages.push({ kind: 'frames', feedId: version.feedId, part: await fetchFrames(stretch, signal) });
    if (version.reductionId !== null && fetchReduction) {
      messages.push({
        kind: 'reduction',
        reductionId: version.reductionId,
        part: await fetchReduction(stretch, signal),
      });
    }
  }
  messages.push({ kind: 'hear', version }, { kind: 'play', frame: version.startFrame, order: 1 });
  const channels = version.weights.length;
  const context = new OfflineAudioContext({ numberOfChannels: channels, length: version.frames, sampleRate: rateHz });
  await context.audioWorklet.addModule('/audition-worklet.js');
  const processorOptions: WorkletOptions = { sampleRateHz: rateHz, channels, messages };
  const node = new AudioWorkletNode(context, WORKLET_NAME, {
    numberOfInputs: 0,
    outputChannelCount: [channels],
    processorOptions,
  });
  node.connect(context.destination);
  const buffer = await context.startRendering();
  return Array.from({ length: channels }, (_, c) => base64Of(buffer.getChannelData(c)));
}

function base64Of(samples: Float32Array): string {
  const bytes = new Uint8Array(samples.buffer, samples.byteOffset, samples.byteLength);
  let text = '';
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return btoa(text);
}
