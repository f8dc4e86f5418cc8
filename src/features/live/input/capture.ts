import { FrameSender } from '@/features/common/capture/frame-sender';
import { openInput, reasonOf } from '@/features/common/capture/inputs';
import { inputMessages as messages } from './messages';
import { trackFrames } from './track-frames';

export type CaptureState =
  | { kind: 'idle' }
  | { kind: 'asking' }
  | { kind: 'running'; device: string; channels: number; sampleRateHz: number }
  | { kind: 'failed'; reason: string };

/** An input of this machine, sent to the server frame by frame for as long as this window is open. */
export class Capture {
  readonly #lineId: string;
  #state: CaptureState = { kind: 'idle' };
  readonly #listeners = new Set<() => void>();
  #stop: (() => void) | undefined;

  constructor(lineId: string) {
    this.#lineId = lineId;
  }

  readonly get = (): CaptureState => this.#state;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  /**
   * Asks for an input and sends what comes from it.
   *
   * @param deviceId undefined for the usual one
   */
  async start(deviceId: string | undefined): Promise<void> {
    this.stop();
    this.#set({ kind: 'asking' });
    try {
      const stream = await openInput(deviceId);
      await this.#send(stream);
    } catch (error) {
      this.#set({ kind: 'failed', reason: reasonOf(error) });
    }
  }

  stop(): void {
    this.#stop?.();
    this.#stop = undefined;
    this.#set({ kind: 'idle' });
  }

  async #send(stream: MediaStream): Promise<void> {
    const [track] = stream.getAudioTracks();
    if (!track) throw new Error(messages.noSound);
    const frames = await trackFrames(stream, track);
    const { channels, sampleRateHz } = frames;
    const query = new URLSearchParams({
      session: crypto.randomUUID(),
      channels: String(channels),
      sampleRateHz: String(sampleRateHz),
    });
    const sender = new FrameSender({
      addressOf: (startFrame) => `/api/live/${this.#lineId}/frames?${query}&startFrame=${startFrame}`,
      channels,
      sampleRateHz,
      onRefused: ({ code }) => {
        // A line that is off takes nothing; what it would have heard is not kept for later.
        if (code !== 'input-elsewhere') return 'go-on';
        this.#stop?.();
        this.#set({ kind: 'failed', reason: messages.elsewhereNow });
        return 'stop';
      },
    });
    frames.start((captured) => sender.add(captured));
    this.#stop = () => {
      sender.stop();
      frames.stop();
      for (const own of stream.getTracks()) own.stop();
    };
    track.onended = () => {
      this.#stop?.();
      this.#set({ kind: 'failed', reason: messages.unplugged });
    };
    this.#set({ kind: 'running', device: track.label, channels, sampleRateHz });
  }

  #set(state: CaptureState): void {
    this.#state = state;
    for (const listener of this.#listeners) listener();
  }
}

/** The captures of this window: they go on while one goes from page to page. */
const captures = new Map<string, Capture>();

export function captureOf(lineId: string): Capture {
  const known = captures.get(lineId) ?? new Capture(lineId);
  captures.set(lineId, known);
  return known;
}
