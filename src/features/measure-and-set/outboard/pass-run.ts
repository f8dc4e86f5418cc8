import { MOST_DELAY_SECONDS, type PassFields } from '@/core/outboard/pass';
import { FrameSender } from '@/features/common/capture/frame-sender';
import { reasonOf } from '@/features/common/capture/inputs';
import type { FromWorklet } from '@/workers/browser/audition-messages';
import { AuditionPlayer, type Outlet, type Playable } from '@/workers/browser/audition-player';
import { CAPTURE_NAME, type CaptureOptions, type WorkletFrames } from '@/workers/browser/capture-messages';
import { type SimulatedGear, throughGear, toOutputs } from './audio-graph';
import { outboardMessages as messages } from './messages';
import { post, saidOf } from './requests';

/** Where a pass goes, and where it comes back. */
export interface Patch {
  /** Undefined for the usual output. */
  outputId: string | undefined;
  /** First channel of it that is used, from 0 on. */
  firstOutput: number;
  back: { kind: 'input'; deviceId: string | undefined; firstInput: number } | ({ kind: 'simulated' } & SimulatedGear);
}

export type PassState =
  | { kind: 'idle' }
  | { kind: 'asking' }
  | {
      kind: 'running';
      /** 0 to 1, and how long it still takes. */
      fraction: number;
      secondsLeft: number;
      /** Greatest sample of the last tenth of a second, linear. */
      sentPeak: number;
      returnedPeak: number;
      /** What is to be known of it, while it goes on. */
      remark: string | null;
    }
  | { kind: 'done'; passId: string }
  | { kind: 'failed'; reason: string };

/** The page is told how far it is so often. */
const TOLD_SECONDS = 0.1;

/** A pass under way: what is played, what is recorded of it, and how far it is. */
export class PassRun {
  readonly #passId: string;
  readonly #playable: Playable;
  readonly #fields: PassFields;
  readonly #patch: Patch;
  readonly #stream: MediaStream | undefined;
  readonly #tell: (state: PassState) => void;
  readonly #sender: FrameSender;
  readonly #player: AuditionPlayer;
  /** By the context's clock: the first frame that was recorded, and the first of the programme. */
  #recordedFrom: number | undefined;
  #playedFrom: number | undefined;
  #recorded = 0;
  #toldAt = 0;
  #peaks = { sent: 0, returned: 0 };
  #remark: string | null = null;
  /** Nothing more is played or recorded. */
  #isOver = false;
  /** Nothing more comes of it: it was recorded, or given up. */
  #isClosed = false;

  constructor(
    passId: string,
    playable: Playable,
    fields: PassFields,
    patch: Patch,
    stream: MediaStream | undefined,
    tell: (state: PassState) => void,
  ) {
    this.#passId = passId;
    this.#playable = playable;
    this.#fields = fields;
    this.#patch = patch;
    this.#stream = stream;
    this.#tell = tell;
    const { sampleRateHz, channels } = fields;
    this.#sender = new FrameSender({
      addressOf: (startFrame) => `/api/passes/${passId}/frames?startFrame=${startFrame}`,
      channels: 2 * channels,
      sampleRateHz,
      onRefused: (error) => {
        this.#fail(saidOf(error));
        return 'stop';
      },
    });
    this.#player = new AuditionPlayer(
      { sampleRateHz, channels },
      '/audition-worklet.js',
      {
        onReport: (report, isBehind) => (isBehind ? undefined : this.#take(report)),
        // It is tried again, and what is missing when it is wanted ends the pass.
        onFailure: () => undefined,
      },
      this.#outlet(),
    );
  }

  start(): void {
    const { startFrame } = this.#playable.version;
    this.#player.seek(startFrame);
    this.#player.hear(this.#playable);
    const [track] = this.#stream?.getAudioTracks() ?? [];
    if (!track) return;
    track.onended = () => this.#fail(messages.unplugged);
    const { sampleRate } = track.getSettings();
    if (sampleRate !== undefined && sampleRate !== this.#fields.sampleRateHz) {
      this.#remark = messages.otherRate(sampleRate);
    }
  }

  giveUp(): void {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#end();
    this.#sender.stop();
    void fetch(`/api/passes/${this.#passId}`, { method: 'DELETE' }).catch(() => undefined);
  }

  /** What is played goes out, and into the recording together with what comes back. */
  #outlet(): Outlet {
    const { outputId } = this.#patch;
    return {
      ...(outputId === undefined ? {} : { sinkId: outputId }),
      connect: (context, played) => this.#connect(context, played).catch((error) => this.#fail(reasonOf(error))),
    };
  }

  async #connect(context: AudioContext, played: AudioNode): Promise<void> {
    const { channels, sampleRateHz } = this.#fields;
    const { firstOutput, back } = this.#patch;
    await context.audioWorklet.addModule('/capture-worklet.js');
    if (this.#isOver) return;
    const firstBack = back.kind === 'input' ? back.firstInput : 0;
    const each = Array.from({ length: channels }, (_, channel) => channel);
    const recorder = new AudioWorkletNode(context, CAPTURE_NAME, {
      numberOfInputs: 2,
      numberOfOutputs: 0,
      channelCountMode: 'max',
      channelInterpretation: 'discrete',
      processorOptions: {
        taken: [
          ...each.map((channel) => ({ input: 0, channel })),
          ...each.map((channel) => ({ input: 1, channel: firstBack + channel })),
        ],
      } satisfies CaptureOptions,
    });
    recorder.port.onmessage = ({ data }: MessageEvent<WorkletFrames>) => this.#record(data);
    recorder.onprocessorerror = () => this.#fail(messages.notRecorded);
    void context.resume();
    toOutputs(context, played, channels, firstOutput);
    played.connect(recorder, 0, 0);
    if (back.kind === 'simulated') throughGear(context, played, back, sampleRateHz, channels).connect(recorder, 0, 1);
    if (this.#stream) {
      new MediaStreamAudioSourceNode(context, { mediaStream: this.#stream }).connect(recorder, 0, 1);
    }
  }

  /** Holds what is played against the clock that what comes back is counted by. */
  #take({ frame, contextFrame, isPlaying, missedFrames }: FromWorklet): void {
    if (this.#isOver) return;
    // Told with the last report too: what was late between two of them is not passed over.
    if (missedFrames > 0) {
      this.#fail(messages.tooSlow);
      return;
    }
    const { startFrame } = this.#playable.version;
    if (!isPlaying || frame === startFrame) return;
    const playedFrom = contextFrame - (frame - startFrame);
    this.#playedFrom ??= playedFrom;
    if (playedFrom !== this.#playedFrom) this.#fail(messages.tooSlow);
  }

  #record(frames: WorkletFrames): void {
    if (this.#isOver) return;
    if (this.#recordedFrom === undefined) {
      // Played no sooner than it is recorded.
      this.#recordedFrom = frames.contextFrame;
      const { startFrame } = this.#playable.version;
      this.#player.play(startFrame).catch((error) => this.#fail(reasonOf(error)));
    }
    this.#sender.add(frames);
    this.#read(frames.samples);
    const { channels, sampleRateHz } = this.#fields;
    this.#recorded = frames.contextFrame + frames.samples.length / (2 * channels);
    if (this.#playedFrom === undefined) return;
    const whole = this.#fields.frames + MOST_DELAY_SECONDS * sampleRateHz;
    const done = this.#recorded - this.#playedFrom;
    if (done >= whole) void this.#finish();
    else if (this.#recorded - this.#toldAt >= TOLD_SECONDS * sampleRateHz) {
      this.#toldAt = this.#recorded;
      this.#tell({
        kind: 'running',
        fraction: Math.max(0, done / whole),
        secondsLeft: (whole - done) / sampleRateHz,
        sentPeak: this.#peaks.sent,
        returnedPeak: this.#peaks.returned,
        remark: this.#remark,
      });
      this.#peaks = { sent: 0, returned: 0 };
    }
  }

  #read(samples: Float32Array): void {
    const { channels } = this.#fields;
    for (let i = 0; i < samples.length; i++) {
      const level = Math.abs(samples[i] as number);
      if (i % (2 * channels) < channels) this.#peaks.sent = Math.max(this.#peaks.sent, level);
      else this.#peaks.returned = Math.max(this.#peaks.returned, level);
    }
  }

  async #finish(): Promise<void> {
    const firstFrame = (this.#playedFrom ?? 0) - (this.#recordedFrom ?? 0);
    this.#end();
    try {
      await this.#sender.whenSent();
      if (this.#isClosed) return;
      await post(`/api/passes/${this.#passId}/finish`, { firstFrame });
      this.#isClosed = true;
      this.#tell({ kind: 'done', passId: this.#passId });
    } catch (error) {
      this.#tell({ kind: 'failed', reason: reasonOf(error) });
    }
  }

  #fail(reason: string): void {
    if (this.#isClosed) return;
    this.giveUp();
    this.#tell({ kind: 'failed', reason });
  }

  #end(): void {
    if (this.#isOver) return;
    this.#isOver = true;
    for (const track of this.#stream?.getTracks() ?? []) track.stop();
    void this.#player.close();
  }
}
