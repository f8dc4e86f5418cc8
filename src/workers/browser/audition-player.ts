import type { ReductionStretch } from '../protocol';
import {
  type FramesPart,
  type FromWorklet,
  type HeardVersion,
  type Listening,
  type ToWorklet,
  WORKLET_NAME,
  type WorkletOptions,
} from './audition-messages';
import { type Range, Stream } from './audition-stream';

/** Seconds that are kept ready ahead of what is heard, and behind it. */
const AHEAD_SECONDS = 6;
/** While nothing is played, so that the first sound need not wait. */
const IDLE_AHEAD_SECONDS = 0.5;
const BEHIND_SECONDS = 1;
/** What must be there before one version passes to another. */
const READY_SECONDS = 0.15;

type Fetcher<Part> = (stretch: { startFrame: number; frames: number }, signal: AbortSignal) => Promise<Part>;

/** A version that can be heard, and where its frames and its gain reduction come from. Ids say what is the same. */
export interface Playable {
  version: HeardVersion;
  fetchFrames: Fetcher<FramesPart>;
  /** Null where there is no limiter. */
  fetchReduction: Fetcher<ReductionStretch> | null;
}

/** Where what is played goes. */
export interface Outlet {
  /** Of the output; absent of the usual one. */
  sinkId?: string;
  connect(context: AudioContext, played: AudioNode): void | Promise<void>;
}

const TO_LISTENER: Outlet = { connect: (context, played) => void played.connect(context.destination) };

export interface PlayerListener {
  /** @param isBehind it was sent before the last order to play or to pause had arrived: what it says of playing is over */
  onReport(report: FromWorklet, isBehind: boolean): void;
  /** Frames or a reduction could not be had; it is tried again when it is wanted again. */
  onFailure(error: unknown): void;
}

/**
 * Plays a programme from a server that keeps it: a few seconds ahead are fetched, and no more, so that a programme of any
 * length is heard at once. What is heard is made in a worklet.
 */
export class AuditionPlayer {
  readonly #context: AudioContext;
  readonly #options: Omit<WorkletOptions, 'messages'>;
  readonly #listener: PlayerListener;
  readonly #outlet: Outlet;
  readonly #ready: Promise<AudioWorkletNode>;
  readonly #streams = new Map<string, Stream>();
  #node: AudioWorkletNode | undefined;
  /** What was sent before the worklet was there. */
  #waiting: ToWorklet[] = [];
  #heard: Playable | undefined;
  #pending: Playable | undefined;
  #companion: Playable | null = null;
  #loop: Range | null = null;
  #frame = 0;
  #isPlaying = false;
  /** Number of the last order to play or to pause. */
  #order = 0;
  #isClosed = false;

  /** @param workletUrl of the worklet's module */
  constructor(
    options: Omit<WorkletOptions, 'messages'>,
    workletUrl: string,
    listener: PlayerListener,
    outlet: Outlet = TO_LISTENER,
  ) {
    this.#options = options;
    this.#listener = listener;
    this.#outlet = outlet;
    const { sinkId } = outlet;
    this.#context = new AudioContext({
      sampleRate: options.sampleRateHz,
      latencyHint: 'interactive',
      ...(sinkId === undefined ? {} : { sinkId }),
    });
    this.#ready = this.#start(workletUrl);
    this.#ready.catch((error) => listener.onFailure(error));
  }

  get sampleRateHz(): number {
    return this.#options.sampleRateHz;
  }

  /** Passes to a version: without a click as soon as enough of it is there, at once while nothing is played. */
  hear(playable: Playable): void {
    this.#pending = playable;
    this.#pump();
  }

  /** Keeps another version ready, so that one can pass to it at any time. */
  keepReady(companion: Playable | null): void {
    this.#companion = companion;
    this.#pump();
  }

  async play(frame = this.#frame): Promise<void> {
    this.#frame = frame;
    this.#isPlaying = true;
    const order = ++this.#order;
    this.#pump();
    await this.#context.resume();
    await this.#ready;
    if (order === this.#order) this.#send({ kind: 'play', frame: this.#frame, order });
  }

  pause(): void {
    this.#isPlaying = false;
    this.#send({ kind: 'pause', order: ++this.#order });
  }

  /** Goes to a frame of the timeline, and goes on playing there. */
  seek(frame: number): void {
    this.#frame = frame;
    if (this.#isPlaying) this.#send({ kind: 'play', frame, order: ++this.#order });
    this.#pump();
  }

  setLoop(loop: Range | null): void {
    this.#loop = loop;
    this.#send({ kind: 'loop', loop });
    this.#pump();
  }

  listen(listening: Listening): void {
    this.#send({ kind: 'listen', listening });
  }

  /** Reads anew from here on. */
  clear(): void {
    this.#send({ kind: 'clear' });
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    for (const stream of this.#streams.values()) stream.stop();
    await this.#context.close();
  }

  async #start(workletUrl: string): Promise<AudioWorkletNode> {
    await this.#context.audioWorklet.addModule(workletUrl);
    const node = new AudioWorkletNode(this.#context, WORKLET_NAME, {
      numberOfInputs: 0,
      outputChannelCount: [this.#options.channels],
      processorOptions: { ...this.#options, messages: this.#waiting } satisfies WorkletOptions,
    });
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => this.#take(data);
    this.#waiting = [];
    this.#node = node;
    await this.#outlet.connect(this.#context, node);
    return node;
  }

  #send(message: ToWorklet): void {
    if (this.#node) this.#node.port.postMessage(message);
    else this.#waiting.push(message);
  }

  #take(report: FromWorklet): void {
    if (this.#isClosed) return;
    const isBehind = report.order !== this.#order;
    if (!isBehind) {
      if (report.isPlaying) this.#frame = report.frame;
      if (report.hasEnded) this.#isPlaying = false;
    }
    this.#listener.onReport(report, isBehind);
    this.#pump();
  }

  /** Sees to it that what will be heard soon is there, and that nothing else is. */
  #pump(): void {
    if (this.#isClosed) return;
    this.#passOn();
    const wanted = [this.#heard, this.#pending, this.#companion].filter((playable) => playable != null);
    const ids = new Set(wanted.flatMap(({ version }) => [version.feedId, version.reductionId]));
    for (const [id, stream] of this.#streams) {
      if (ids.has(id)) continue;
      stream.stop();
      this.#streams.delete(id);
      this.#send({ kind: 'forget', id, startFrame: null });
    }
    for (const playable of wanted) this.#fetchFor(playable);
  }

  #fetchFor({ version, fetchFrames, fetchReduction }: Playable): void {
    const { feedId, reductionId, frames } = version;
    const ranges = this.#rangesOf(version);
    this.#streamOf(feedId, fetchFrames, (part) => ({ kind: 'frames', feedId, part })).want(ranges, frames);
    if (reductionId === null || !fetchReduction) return;
    this.#streamOf(reductionId, fetchReduction, (part) => ({ kind: 'reduction', reductionId, part })).want(
      ranges,
      frames,
    );
  }

  #streamOf<Part extends { startFrame: number }>(
    id: string,
    fetcher: Fetcher<Part>,
    messageOf: (part: Part) => ToWorklet,
  ): Stream {
    let stream = this.#streams.get(id);
    if (!stream) {
      stream = new Stream({
        fetch: async (stretch, signal) => {
          const part = await fetcher(stretch, signal);
          return { startFrame: part.startFrame, message: messageOf(part) };
        },
        onMessage: (message) => {
          this.#send(message);
          this.#pump();
        },
        onForget: (startFrame) => this.#send({ kind: 'forget', id, startFrame }),
        onFailure: (error) => this.#listener.onFailure(error),
      });
      this.#streams.set(id, stream);
    }
    return stream;
  }

  /** What of a version's frames is to be there: around what is heard, and where a loop goes on. */
  #rangesOf({ startFrame: shift, frames }: HeardVersion): Range[] {
    const { sampleRateHz } = this.#options;
    const aheadSeconds = this.#isPlaying ? AHEAD_SECONDS : IDLE_AHEAD_SECONDS;
    const aheadFrame = this.#frame + aheadSeconds * sampleRateHz;
    const from = this.#frame - (this.#isPlaying ? BEHIND_SECONDS * sampleRateHz : 0);
    const loop = this.#loop && this.#frame < this.#loop.endFrame ? this.#loop : null;
    const ranges = [{ startFrame: this.#frame, endFrame: Math.min(aheadFrame, loop?.endFrame ?? aheadFrame) }];
    if (loop && aheadFrame > loop.endFrame) {
      const rest = Math.min(loop.endFrame, loop.startFrame + aheadFrame - loop.endFrame);
      ranges.push({ startFrame: loop.startFrame, endFrame: rest });
    }
    ranges.push({ startFrame: from, endFrame: this.#frame });
    return ranges
      .map(({ startFrame, endFrame }) => ({
        startFrame: Math.max(0, startFrame - shift),
        endFrame: Math.min(frames, endFrame - shift),
      }))
      .filter(({ startFrame, endFrame }) => endFrame > startFrame);
  }

  /** Lets the version that waits be heard, once enough of it is there. */
  #passOn(): void {
    const pending = this.#pending;
    if (!pending) return;
    const { feedId, reductionId, startFrame, frames } = pending.version;
    const at = this.#frame - startFrame;
    const ready = {
      startFrame: Math.max(0, at),
      endFrame: Math.min(frames, at + READY_SECONDS * this.#options.sampleRateHz),
    };
    const isThere = [feedId, reductionId].every((id) => id === null || this.#streams.get(id)?.has(ready));
    if (this.#isPlaying && this.#heard && !isThere) return;
    this.#heard = pending;
    this.#pending = undefined;
    this.#send({ kind: 'hear', version: pending.version });
  }
}
