import type { ErrorRecord } from '@/core/errors/app-error';
import type { CapturedFrames } from '@/workers/browser/capture-messages';

/** What the server did not take yet waits for so long; what is older is lost, and told as such. */
const MOST_WAITING_SECONDS = 30;
/** After a request that failed. */
const TRIED_AGAIN_MS = 250;
/** Of one request, which may be of 4 MB. */
const MOST_BYTES = 2_000_000;
/** The status of who can't answer now. */
const UNAVAILABLE = 503;

/** Sends frames one request after the other; what comes meanwhile goes with the next. */
export class FrameSender {
  readonly #addressOf: (startFrame: number) => string;
  readonly #channels: number;
  readonly #sampleRateHz: number;
  readonly #onRefused: (error: ErrorRecord) => 'stop' | 'go-on';
  #waiting: CapturedFrames[] = [];
  #sending: Promise<void> | undefined;
  #isStopped = false;

  /**
   * @param options.addressOf where frames go, of which the first is so many
   * @param options.onRefused called where the server does not take frames, which are gone then; says whether the next are sent
   */
  constructor(options: {
    addressOf: (startFrame: number) => string;
    channels: number;
    sampleRateHz: number;
    onRefused: (error: ErrorRecord) => 'stop' | 'go-on';
  }) {
    this.#addressOf = options.addressOf;
    this.#channels = options.channels;
    this.#sampleRateHz = options.sampleRateHz;
    this.#onRefused = options.onRefused;
  }

  add(captured: CapturedFrames): void {
    if (this.#isStopped) return;
    this.#waiting.push(captured);
    const first = this.#waiting[0] as CapturedFrames;
    const waitingFrames = captured.startFrame - first.startFrame;
    if (waitingFrames > MOST_WAITING_SECONDS * this.#sampleRateHz) this.#waiting.shift();
    this.#sending ??= this.#send().finally(() => {
      this.#sending = undefined;
    });
  }

  stop(): void {
    this.#isStopped = true;
  }

  /** Resolves once all that was added is sent, or refused. */
  async whenSent(): Promise<void> {
    await this.#sending;
  }

  async #send(): Promise<void> {
    while (this.#waiting.length > 0 && !this.#isStopped) {
      const together = this.#together();
      try {
        const response = await fetch(this.#addressOf(together[0]?.startFrame ?? 0), {
          method: 'POST',
          headers: { 'Content-Type': 'application/octet-stream' },
          body: new Blob(together.map(({ samples }) => samples)),
        });
        if (response.ok) continue;
        // It takes nothing for the moment: these are sent again.
        if (response.status === UNAVAILABLE) throw new Error(response.statusText);
        const { error } = (await response.json()) as { error: ErrorRecord };
        if (this.#onRefused(error) === 'stop') this.stop();
        else await wait(TRIED_AGAIN_MS);
      } catch {
        this.#waiting.unshift(...together);
        await wait(TRIED_AGAIN_MS);
      }
    }
  }

  /** What waits, from its start on, as far as it follows without a gap and goes into one request. */
  #together(): CapturedFrames[] {
    let count = 1;
    let bytes = this.#waiting[0]?.samples.byteLength ?? 0;
    while (count < this.#waiting.length) {
      const before = this.#waiting[count - 1] as CapturedFrames;
      const next = this.#waiting[count] as CapturedFrames;
      bytes += next.samples.byteLength;
      const follows = before.startFrame + before.samples.length / this.#channels === next.startFrame;
      if (!follows || bytes > MOST_BYTES) break;
      count++;
    }
    return this.#waiting.splice(0, count);
  }
}

function wait(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}
