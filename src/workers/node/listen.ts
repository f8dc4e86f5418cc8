import { type Line, type LineGap, openLine } from '@/codecs/line';
import { type AppError, isAppError } from '@/core/errors/app-error';
import { LineMeter, type LineMoment } from '@/core/live/line-meter';
import { type LineSecond, SecondGatherer } from '@/core/live/line-second';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { LiveReadings } from '@/core/loudness/live-meter';
import { BINS_PER_SECOND } from '@/core/units/frames';
import { Recording } from './recording';

export interface ListenOptions {
  /** Frames of so many seconds, and no more. */
  seconds?: number | undefined;
  /** A file that the line is recorded to; 32 bits are float. */
  record?: { path: string; bitDepth: 24 | 32 } | undefined;
  /** Ends it as the line itself would. */
  signal?: AbortSignal | undefined;
  onOpen?: ((format: Line['format'] & { layout: string }) => void) | undefined;
  /** With its number, counted from 1. */
  onSecond?: ((second: LineSecond & { second: number }) => void) | undefined;
  onGap?: ((gap: LineGap) => void) | undefined;
}

export interface Heard {
  format: Line['format'] & { layout: string };
  frames: number;
  /** Of them, those that never came: silence stands in their place. */
  lostFrames: number;
  /** By the clock of this machine, from the first frame to the last. */
  clockSeconds: number;
  readings: LiveReadings;
  /** Why the connection was lost; undefined where the line ended, or was ended. */
  lost: AppError | undefined;
  recording: { path: string; frames: number; clippedSamples: number; failure: AppError | undefined } | undefined;
}

/**
 * Measures a line while it sounds, and records it where that is asked. What can not be written ends the recording, not the measuring.
 *
 * @throws AppError `line-not-opened`, `file-missing`; `file-exists`, `not-writable` of a recording that can not begin
 */
export async function listen(input: string, options: ListenOptions = {}): Promise<Heard> {
  const { seconds = Number.POSITIVE_INFINITY, record, signal, onOpen, onSecond, onGap } = options;
  const gaps: LineGap[] = [];
  let told = 0;
  const line = await openLine(input, (gap) => gaps.push(gap));
  const end = () => line.end();
  signal?.addEventListener('abort', end);
  try {
    if (signal?.aborted) end();
    const { sampleRateHz, channels, channelMask } = line.format;
    const layout = channelLayout(channels, channelMask);
    const format = { ...line.format, layout: layout.name };
    const mostFrames = Math.round(seconds * sampleRateHz);
    const recording = record && (await Recording.create(record.path, { ...line.format, bitDepth: record.bitDepth }));
    const meter = new LineMeter(
      sampleRateHz,
      layout.channels.map(({ weight }) => weight),
    );
    onOpen?.(format);
    const gatherer = new SecondGatherer();
    const tell = (moments: readonly LineMoment[]) => {
      for (const moment of moments) {
        gatherer.add(moment);
        if (!moment.isWhole || (moment.bin + 1) % BINS_PER_SECOND !== 0) continue;
        const second = gatherer.take();
        if (second) onSecond?.({ second: (moment.bin + 1) / BINS_PER_SECOND, ...second });
      }
    };
    let lost: AppError | undefined;
    let [beganMs, endedMs] = [Number.NaN, Number.NaN];
    try {
      for await (const part of line.parts) {
        endedMs = performance.now();
        if (meter.frames === 0) beganMs = endedMs - (1000 * part.frames) / sampleRateHz;
        const frames = Math.min(part.frames, mostFrames - meter.frames);
        recording?.add(part.channels, frames);
        tell(meter.process(part.channels, frames));
        // What is known of a gap that has not been reached yet waits for it.
        for (; (gaps[told]?.startFrame ?? Number.POSITIVE_INFINITY) < meter.frames; told++)
          onGap?.(gaps[told] as LineGap);
        if (meter.frames >= mostFrames) break;
      }
    } catch (error) {
      if (!isAppError(error, 'line-lost')) throw error;
      lost = error;
    } finally {
      await recording?.finish();
    }
    const { moments, readings } = meter.finish();
    tell(moments);
    return {
      format,
      frames: meter.frames,
      lostFrames: gaps.slice(0, told).reduce((sum, gap) => sum + gap.frames, 0),
      clockSeconds: meter.frames === 0 ? 0 : (endedMs - beganMs) / 1000,
      readings,
      lost,
      recording: recording && {
        path: recording.path,
        frames: recording.committedFrames,
        clippedSamples: recording.clippedSamples,
        failure: recording.failure,
      },
    };
  } finally {
    signal?.removeEventListener('abort', end);
    line.end();
  }
}
