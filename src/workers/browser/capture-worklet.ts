import { CAPTURE_NAME, type CapturedFrames } from './capture-messages';

/** What a worklet's global scope has, and no library declares. */
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(
  name: string,
  processor: new (options: { processorOptions: { channels: number } }) => AudioWorkletProcessor,
): void;

/** Sent together: 21 ms at 48 kHz. */
const TOGETHER_FRAMES = 1024;
const QUANTUM_FRAMES = 128;

/** Hands over all that comes from an input, frame by frame, with nothing done to it. */
class CaptureProcessor extends AudioWorkletProcessor {
  readonly #channels: number;
  #samples: Float32Array<ArrayBuffer>;
  #filled = 0;
  #startFrame = 0;
  /** Before the input sounds, nothing has come from it. */
  #hasBegun = false;

  constructor({ processorOptions: { channels } }: { processorOptions: { channels: number } }) {
    super();
    this.#channels = channels;
    this.#samples = new Float32Array(TOGETHER_FRAMES * channels);
  }

  process([input]: Float32Array[][]): boolean {
    this.#hasBegun ||= (input?.length ?? 0) > 0;
    if (!this.#hasBegun) return true;
    // An input that was muted has no channels, but its time goes on.
    const frames = input?.[0]?.length ?? QUANTUM_FRAMES;
    for (let i = 0; i < frames; i++) {
      for (let c = 0; c < this.#channels; c++) {
        this.#samples[(this.#filled + i) * this.#channels + c] = input?.[c]?.[i] ?? 0;
      }
    }
    this.#filled += frames;
    if (this.#filled >= TOGETHER_FRAMES) this.#send();
    return true;
  }

  #send(): void {
    const captured: CapturedFrames = { startFrame: this.#startFrame, samples: this.#samples };
    this.port.postMessage(captured, [captured.samples.buffer]);
    this.#startFrame += this.#filled;
    this.#filled = 0;
    this.#samples = new Float32Array(TOGETHER_FRAMES * this.#channels);
  }
}

registerProcessor(CAPTURE_NAME, CaptureProcessor);
