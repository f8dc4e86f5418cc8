import type { ErrorRecord } from '@/core/errors/app-error';
import type { CapturedFrames } from '@/workers/browser/capture-messages';
import { inputMessages as messages } from './messages';
import { trackFrames } from './track-frames';

/** What the server did not take yet waits for so long; what is older is lost, and told as such. */
const MOST_WAITING_SECONDS = 30;
/** After a request that failed. */
const TRIED_AGAIN_MS = 250;
/** Parts of 10 or 20 ms that are sent in one request. */
const MOST_TOGETHER = 50;

export type CaptureState =
  | { kind: 'idle' }
  | { kind: 'asking' }
  | { kind: 'running'; device: string; channels: number; sampleRateHz: number }
  | { kind: 'failed'; reason: string };

/** Nothing is to be done to the sound on its way: what the device gives is what is measured. */
const UNPROCESSED = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };

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
      const stream = await navigator.mediaDevices.getUserMedia({
        audio: {
          ...UNPROCESSED,
          channelCount: { ideal: 24 },
          ...(deviceId === undefined ? {} : { deviceId: { exact: deviceId } }),
        },
      });
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
    const sender = new FrameSender(this.#lineId, channels, sampleRateHz, (reason) => {
      this.#stop?.();
      this.#set({ kind: 'failed', reason });
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

/** Sends frames one request after the other; what comes meanwhile goes with the next. */
class FrameSender {
  readonly #address: string;
  readonly #channels: number;
  readonly #sampleRateHz: number;
  #waiting: CapturedFrames[] = [];
  #isSending = false;
  #isStopped = false;

  readonly #onRefused: (reason: string) => void;

  /** @param onRefused called where nothing more is taken from this window */
  constructor(lineId: string, channels: number, sampleRateHz: number, onRefused: (reason: string) => void) {
    const session = crypto.randomUUID();
    const query = new URLSearchParams({ session, channels: String(channels), sampleRateHz: String(sampleRateHz) });
    this.#address = `/api/live/${lineId}/frames?${query}`;
    this.#channels = channels;
    this.#onRefused = onRefused;
    this.#sampleRateHz = sampleRateHz;
  }

  add(captured: CapturedFrames): void {
    this.#waiting.push(captured);
    const first = this.#waiting[0] as CapturedFrames;
    const waitingFrames = captured.startFrame - first.startFrame;
    if (waitingFrames > MOST_WAITING_SECONDS * this.#sampleRateHz) this.#waiting.shift();
    if (!this.#isSending) void this.#send();
  }

  stop(): void {
    this.#isStopped = true;
  }

  async #send(): Promise<void> {
    this.#isSending = true;
    while (this.#waiting.length > 0 && !this.#isStopped) {
      const together = this.#together();
      const startFrame = together[0]?.startFrame ?? 0;
      try {
        const response = await fetch(`${this.#address}&startFrame=${startFrame}`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/octet-stream' },
          body: new Blob(together.map(({ samples }) => samples)),
        });
        if (response.ok) continue;
        const { error } = (await response.json()) as { error: ErrorRecord };
        if (error.code === 'input-elsewhere') this.#onRefused(messages.elsewhereNow);
        // A line that is off takes nothing; what it would have heard is not kept for later.
        else await wait(TRIED_AGAIN_MS);
      } catch {
        this.#waiting.unshift(...together);
        await wait(TRIED_AGAIN_MS);
      }
    }
    this.#isSending = false;
  }

  /** What waits, from its start on, as far as it follows without a gap. */
  #together(): CapturedFrames[] {
    const most = MOST_TOGETHER;
    let count = 1;
    while (count < Math.min(most, this.#waiting.length)) {
      const before = this.#waiting[count - 1] as CapturedFrames;
      const next = this.#waiting[count] as CapturedFrames;
      if (before.startFrame + before.samples.length / this.#channels !== next.startFrame) break;
      count++;
    }
    return this.#waiting.splice(0, count);
  }
}

/** The captures of this window: they go on while one goes from page to page. */
const captures = new Map<string, Capture>();

export function captureOf(lineId: string): Capture {
  const known = captures.get(lineId) ?? new Capture(lineId);
  captures.set(lineId, known);
  return known;
}

function reasonOf(error: unknown): string {
  const name = error instanceof DOMException ? error.name : '';
  if (name === 'NotAllowedError') return messages.notAllowed;
  if (name === 'NotFoundError' || name === 'OverconstrainedError') return messages.notFound;
  if (name === 'NotReadableError') return messages.inUse;
  return error instanceof Error ? error.message : String(error);
}

function wait(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}
