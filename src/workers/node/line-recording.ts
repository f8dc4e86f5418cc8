import { toErrorRecord } from '@/core/errors/app-error';
import type { GrowingLayout } from '@/formats/wav/growing-wav';
import type { RecordingGap, RecordingState, RecordOrder } from '../line-protocol';
import { Recording } from './recording';

/** A line that was away for longer is not filled up: what comes then follows what came. */
const MOST_FILLED_SECONDS = 3600;

/** A recording of a line: where it began by the clock, and what of it never came. */
export class LineRecording {
  readonly #recording: Recording;
  readonly #order: RecordOrder;
  readonly #sampleRateHz: number;
  readonly #channels: number;
  readonly #gaps: RecordingGap[] = [];
  readonly #markerFrames: number[] = [];
  #frames = 0;
  #startMs = 0;

  private constructor(recording: Recording, order: RecordOrder, layout: GrowingLayout) {
    this.#recording = recording;
    this.#order = order;
    this.#sampleRateHz = layout.sampleRateHz;
    this.#channels = layout.channels;
  }

  /** Throws `file-exists`, `not-writable`. */
  static async create(order: RecordOrder, layout: GrowingLayout): Promise<LineRecording> {
    const { path, bitDepth } = order;
    return new LineRecording(await Recording.create(path, { ...layout, bitDepth }), order, layout);
  }

  /** By the clock, when its first frame sounded. */
  get startMs(): number {
    return this.#startMs;
  }

  get hasFailed(): boolean {
    return this.#recording.failure !== undefined;
  }

  get state(): RecordingState {
    const { committedFrames: frames, clippedSamples, failure } = this.#recording;
    const { recordingId } = this.#order;
    return {
      recordingId,
      sampleRateHz: this.#sampleRateHz,
      frames,
      clippedSamples,
      gaps: [...this.#gaps],
      markerFrames: [...this.#markerFrames],
      failure: failure && toErrorRecord(failure),
    };
  }

  /**
   * @param ahead what was heard before
   * @param gaps what of that never came: each by how many frames before its end it begins
   * @param nowMs by the clock, when that ended
   */
  begin(ahead: readonly Float32Array[], gaps: readonly { beforeEnd: number; frames: number }[], nowMs: number): void {
    const frames = ahead[0]?.length ?? 0;
    this.#startMs = nowMs - (1000 * frames) / this.#sampleRateHz;
    this.add(ahead, frames);
    for (const gap of gaps) this.addGap(gap.beforeEnd, gap.frames);
  }

  add(channels: readonly Float32Array[], frames: number): void {
    this.#recording.add(channels, frames);
    this.#frames += frames;
  }

  /** Notes frames that never came, of which the first stands so many before the end of what was added. */
  addGap(beforeEnd: number, frames: number): void {
    const startFrame = Math.max(0, this.#frames - beforeEnd);
    this.#gaps.push({ startFrame, frames });
  }

  /** Sets a marker at the end of what was added; returns how many there are. */
  addMarker(): number {
    return this.#markerFrames.push(this.#frames);
  }

  /** Puts silence where a line was away, so that what comes next is where it belongs. */
  fillUntil(clockMs: number): void {
    const missing = Math.round(((clockMs - this.#startMs) / 1000) * this.#sampleRateHz) - this.#frames;
    const frames = Math.min(missing, MOST_FILLED_SECONDS * this.#sampleRateHz);
    if (frames <= 0) return;
    this.#gaps.push({ startFrame: this.#frames, frames });
    const second = Array.from({ length: this.#channels }, () => new Float32Array(this.#sampleRateHz));
    for (let left = frames; left > 0; left -= this.#sampleRateHz) {
      this.add(second, Math.min(left, this.#sampleRateHz));
    }
  }

  finish(): Promise<void> {
    return this.#recording.finish();
  }
}
