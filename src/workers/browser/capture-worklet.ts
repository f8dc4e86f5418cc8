import { CAPTURE_NAME, type CaptureOptions, type WorkletFrames } from './capture-messages';

/** What a worklet's global scope has, and no library declares. */
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(
  name: string,
  processor: new (options: { processorOptions: CaptureOptions }) => AudioWorkletProcessor,
): void;
/** Of the quantum that is made now, the first frame. */
declare const currentFrame: number;

/** Sent together: 21 ms at 48 kHz. */
const TOGETHER_FRAMES = 1024;
const QUANTUM_FRAMES = 128;

/**
 * Hands over all that comes from its inputs, frame by frame, with nothing done to it. It begins with the first of them. Where the browser
 * has passed it over for a while, the next frames have later numbers.
 */
class CaptureProcessor extends AudioWorkletProcessor {
  readonly #taken: CaptureOptions['taken'];
  readonly #samples: Float32Array<ArrayBuffer>;
  #filled = 0;
  #startFrame = 0;
  #contextFrame = 0;
  #hasBegun = false;
  /** By the context's clock; undefined before the first. */
  #expectedFrame: number | undefined;

  constructor({ processorOptions: { taken } }: { processorOptions: CaptureOptions }) {
    super();
    this.#taken = taken;
    this.#samples = new Float32Array(TOGETHER_FRAMES * taken.length);
  }

  process(inputs: Float32Array[][]): boolean {
    this.#hasBegun ||= (inputs[0]?.length ?? 0) > 0;
    if (!this.#hasBegun) return true;
    const passedOver = currentFrame - (this.#expectedFrame ?? currentFrame);
    this.#expectedFrame = currentFrame + QUANTUM_FRAMES;
    if (passedOver > 0) {
      if (this.#filled > 0) this.#send();
      this.#startFrame += passedOver;
    }
    if (this.#filled === 0) this.#contextFrame = currentFrame;
    // An input that was muted has no channels, but its time goes on.
    for (const [c, { input, channel }] of this.#taken.entries()) {
      const heard = inputs[input]?.[channel];
      for (let i = 0, at = this.#filled * this.#taken.length + c; i < QUANTUM_FRAMES; i++, at += this.#taken.length) {
        this.#samples[at] = heard?.[i] ?? 0;
      }
    }
    this.#filled += QUANTUM_FRAMES;
    if (this.#filled >= TOGETHER_FRAMES) this.#send();
    return true;
  }

  #send(): void {
    const captured: WorkletFrames = {
      startFrame: this.#startFrame,
      contextFrame: this.#contextFrame,
      samples: this.#samples.slice(0, this.#filled * this.#taken.length),
    };
    this.port.postMessage(captured, [captured.samples.buffer]);
    this.#startFrame += this.#filled;
    this.#filled = 0;
  }
}

registerProcessor(CAPTURE_NAME, CaptureProcessor);
