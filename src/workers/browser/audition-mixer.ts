import { applyReduction } from '@/core/limiter/apply-reduction';
import { type LiveBin, LiveMeter } from '@/core/loudness/live-meter';
import { applyFades } from '@/core/treatment/steps/fade';
import { dbToAmplitude } from '@/core/units/decibel';
import type { ReductionStretch } from '../protocol';
import { add, framesOf, framesOfReduction, isWithin, keep, scale, silence, takeFrom } from './audition-buffers';
import type { FramesPart, FromMixer, HeardVersion, Listening, ToWorklet, WorkletOptions } from './audition-messages';

/** Passing from one version to another takes so long. */
const PASS_SECONDS = 0.01;

/**
 * Makes what is heard of what was streamed, by the steps that write it: gain with the limiter's gain reduction, fades, trim. Plain
 * frames in and out, so that it runs in a worklet and in a test alike.
 */
export class AuditionMixer {
  readonly #sampleRateHz: number;
  readonly #frames = new Map<string, FramesPart[]>();
  readonly #reductions = new Map<string, ReductionStretch[]>();
  readonly #maxFrames: number;
  /** Where versions are made before they are mixed, and a quantum as it is before its gain. */
  readonly #rooms: Record<'heard' | 'left' | 'plain', Float32Array[]>;
  #heard: HeardVersion | undefined;
  /** The version that is passed from, and how many frames of the passage have been heard. */
  #left: { version: HeardVersion; passed: number } | undefined;
  #next: HeardVersion | undefined;
  #listening: Listening = { mono: false, removedOnly: false };
  #loop: { startFrame: number; endFrame: number } | null = null;
  #frame = 0;
  #order = 0;
  #isPlaying = false;
  #isStarved = false;
  /** Where it was played from, and how many frames were silent since it began to sound because they were not there. */
  #playedFrom = 0;
  #missedFrames = 0;
  #hasEnded = false;
  #reductionDb = 0;
  #meter: LiveMeter;
  #bins: FromMixer['bins'] = [];
  #clears = 0;

  /** @param maxFrames of one call of process */
  constructor({ sampleRateHz, channels, messages }: WorkletOptions, maxFrames: number) {
    this.#sampleRateHz = sampleRateHz;
    this.#maxFrames = maxFrames;
    const room = () => Array.from({ length: channels }, () => new Float32Array(maxFrames));
    this.#rooms = { heard: room(), left: room(), plain: room() };
    this.#meter = this.#newMeter();
    for (const message of messages) this.receive(message);
  }

  receive(message: ToWorklet): void {
    switch (message.kind) {
      case 'frames':
        add(this.#frames, message.feedId, message.part);
        break;
      case 'reduction':
        add(this.#reductions, message.reductionId, message.part);
        break;
      case 'forget':
        this.#forget(message.id, message.startFrame);
        break;
      case 'hear':
        this.#hear(message.version);
        break;
      case 'listen':
        this.#listening = message.listening;
        break;
      case 'loop':
        this.#loop = message.loop;
        break;
      case 'play':
        this.#order = message.order;
        this.#play(message.frame);
        break;
      case 'pause':
        this.#order = message.order;
        this.#isPlaying = false;
        break;
      case 'clear':
        this.#clear();
    }
  }

  /** What is to be told, since this was last asked. */
  report(): FromMixer {
    const report = {
      order: this.#order,
      frame: this.#frame,
      hasEnded: this.#hasEnded,
      isPlaying: this.#isPlaying,
      isStarved: this.#isStarved,
      missedFrames: this.#missedFrames,
      bins: this.#bins,
      reductionDb: this.#reductionDb,
      clears: this.#clears,
    };
    this.#bins = [];
    this.#reductionDb = 0;
    return report;
  }

  /** Fills the channels with the next frames, or with silence while there is nothing to be heard. */
  process(output: readonly Float32Array[], frames: number): void {
    for (const samples of output) samples.fill(0);
    if (!this.#isPlaying || !this.#heard) return;
    for (let done = 0; done < frames && this.#isPlaying; ) {
      const count = this.#make(Math.min(frames - done, this.#maxFrames));
      if (count === 0) {
        if (this.#isPlaying && this.#frame !== this.#playedFrom) this.#missedFrames += frames - done;
        return;
      }
      this.#put(output, done, count);
      done += count;
    }
  }

  /** Makes the next frames of what is heard, at most so many; 0 where there is nothing, or they are not there yet. */
  #make(frames: number): number {
    const heard = this.#heard as HeardVersion;
    if (this.#loop && this.#frame >= this.#loop.endFrame) this.#frame = this.#loop.startFrame;
    const left = heard.frames + heard.startFrame - this.#frame;
    if (left <= 0) {
      this.#end();
      return 0;
    }
    const untilLoop = this.#loop ? this.#loop.endFrame - this.#frame : Number.POSITIVE_INFINITY;
    let count = this.#treat(heard, this.#frame, Math.min(frames, left, untilLoop), this.#rooms.heard);
    this.#isStarved = count === 0;
    if (count === 0) return 0;
    const before = this.#left && this.#treat(this.#left.version, this.#frame, count, this.#rooms.left);
    if (before) count = before;
    // What is read is the version's own, however one listens to it.
    this.#meter.process(this.#rooms.heard, count);
    this.#keep(this.#meter.take(), this.#frame + count);
    scale(this.#rooms.heard, count, dbToAmplitude(heard.offsetDb));
    if (this.#left) {
      scale(this.#rooms.left, count, dbToAmplitude(this.#left.version.offsetDb));
      this.#pass(count, before !== 0);
    }
    this.#frame += count;
    return count;
  }

  #play(frame: number): void {
    // From somewhere else on it is another passage that is read.
    if (frame !== this.#frame || this.#hasEnded) this.#clear();
    this.#frame = frame;
    this.#playedFrom = frame;
    this.#missedFrames = 0;
    this.#hasEnded = false;
    this.#isPlaying = true;
  }

  #end(): void {
    this.#isPlaying = false;
    this.#hasEnded = true;
    this.#keep(this.#meter.finish(), this.#frame);
    this.#meter = this.#newMeter();
  }

  /** Keeps what has become whole for the next report. */
  #keep(bins: readonly LiveBin[], endFrame: number): void {
    for (const bin of bins) this.#bins.push({ ...bin, endFrame });
  }

  #newMeter(): LiveMeter {
    return new LiveMeter(this.#sampleRateHz, this.#heard?.weights ?? [], this.#maxFrames);
  }

  /** Mixes what is heard with what is left, in place. */
  #pass(count: number, isLeftThere: boolean): void {
    const left = this.#left as { version: HeardVersion; passed: number };
    const length = Math.round(PASS_SECONDS * this.#sampleRateHz);
    if (isLeftThere) {
      this.#rooms.heard.forEach((samples, c) => {
        const before = this.#rooms.left[c] as Float32Array;
        for (let n = 0; n < count; n++) {
          const share = Math.min(1, (left.passed + n) / length);
          samples[n] = share * (samples[n] ?? 0) + (1 - share) * (before[n] ?? 0);
        }
      });
    }
    left.passed += count;
    if (left.passed < length && isLeftThere) return;
    this.#left = undefined;
    if (this.#next) {
      const next = this.#next;
      this.#next = undefined;
      this.#hear(next);
    }
  }

  #hear(version: HeardVersion): void {
    if (this.#left) {
      this.#next = version;
      return;
    }
    const before = this.#heard;
    if (before && this.#isPlaying) this.#left = { version: before, passed: 0 };
    this.#heard = version;
    if (before?.weights.join() !== version.weights.join()) this.#clear();
  }

  #clear(): void {
    this.#meter = this.#newMeter();
    this.#bins = [];
    this.#clears++;
  }

  #forget(id: string, startFrame: number | null): void {
    for (const parts of [this.#frames, this.#reductions] as Map<string, { startFrame: number }[]>[]) {
      const own = parts.get(id);
      if (!own) continue;
      if (startFrame === null) parts.delete(id);
      else
        parts.set(
          id,
          own.filter((part) => part.startFrame !== startFrame),
        );
    }
  }

  /** A version's frames from a frame of the timeline on, through its steps; returns how many there are in one go. */
  #treat(version: HeardVersion, frame: number, most: number, room: readonly Float32Array[]): number {
    const at = frame - version.startFrame;
    // Before its beginning and behind its end a version is silent while another is heard.
    if (at < 0 || at >= version.frames) return silence(room, at < 0 ? Math.min(most, -at) : most);
    const part = this.#frames.get(version.feedId)?.find((own) => isWithin(at, own.startFrame, framesOf(own)));
    if (!part) return 0;
    let count = Math.min(most, part.startFrame + framesOf(part) - at);
    const reductions = version.reductionId === null ? null : this.#reductions.get(version.reductionId);
    const reduction = reductions?.find((own) => isWithin(at, own.startFrame, framesOfReduction(own)));
    if (version.reductionId !== null) {
      if (!reduction) return 0;
      count = Math.min(count, reduction.startFrame + framesOfReduction(reduction) - at);
    }
    room.forEach((samples, c) => {
      // One channel is heard on all.
      const own = (part.channels[c] ?? part.channels[0]) as Float32Array;
      samples.set(own.subarray(at - part.startFrame, at - part.startFrame + count));
    });
    this.#apply(version, reduction, room, at, count);
    return count;
  }

  #apply(
    version: HeardVersion,
    reduction: ReductionStretch | undefined,
    room: readonly Float32Array[],
    at: number,
    count: number,
  ): void {
    const gain = dbToAmplitude(version.gainDb);
    const behind = dbToAmplitude(version.outputGainDb);
    if (reduction) {
      const plain = this.#rooms.plain;
      if (this.#listening.removedOnly) keep(room, plain, count, gain);
      reduction.groups.forEach((members, group) => {
        const reductions = reduction.reductions[group] as Float32Array;
        const channels = members.map((c) => room[c] as Float32Array);
        applyReduction(channels, count, at - reduction.startFrame, {
          reductions,
          nodeFrames: reduction.nodeFrames,
          gain,
        });
        const first = Math.floor((at - reduction.startFrame) / reduction.nodeFrames);
        const last = Math.floor((at - reduction.startFrame + count - 1) / reduction.nodeFrames);
        for (let node = first; node <= last; node++) {
          this.#reductionDb = Math.max(this.#reductionDb, reductions[node] ?? 0);
        }
      });
      if (this.#listening.removedOnly) takeFrom(plain, room, count);
      if (behind !== 1) scale(room, count, behind);
    } else {
      scale(room, count, this.#listening.removedOnly ? 0 : gain * behind);
    }
    applyFades(room, count, at, version.frames, version.fades);
  }

  /** Puts what is heard out as one listens to it. */
  #put(output: readonly Float32Array[], from: number, count: number): void {
    const { heard } = this.#rooms;
    output.forEach((samples, c) => {
      const own = heard[c];
      if (own) samples.set(own.subarray(0, count), from);
    });
    if (!this.#listening.mono) return;
    for (let n = from; n < from + count; n++) {
      let sum = 0;
      for (const samples of output) sum += samples[n] ?? 0;
      for (const samples of output) samples[n] = sum / output.length;
    }
  }
}
