import { type FromWorklet, type ToWorklet, WORKLET_NAME, type WorkletOptions } from './audition-messages';
import { AuditionMixer } from './audition-mixer';

/** What a worklet's global scope has, and no library declares. */
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}
declare function registerProcessor(
  name: string,
  processor: new (options: { processorOptions: WorkletOptions }) => AudioWorkletProcessor,
): void;

/** Of the quantum that is made now, the first frame. */
declare const currentFrame: number;

/** Frames that a browser asks for at a time. */
const QUANTUM_FRAMES = 128;
const REPORTS_PER_SECOND = 30;

/** The mixer in a worklet: messages in, sound out, and a report thirty times a second. */
class AuditionProcessor extends AudioWorkletProcessor {
  readonly #mixer: AuditionMixer;
  readonly #reportFrames: number;
  #unreported = 0;
  #wasPlaying = false;
  #nextContextFrame = 0;

  constructor({ processorOptions }: { processorOptions: WorkletOptions }) {
    super();
    this.#mixer = new AuditionMixer(processorOptions, QUANTUM_FRAMES);
    this.#reportFrames = Math.round(processorOptions.sampleRateHz / REPORTS_PER_SECOND);
    this.port.onmessage = ({ data }: MessageEvent<ToWorklet>) => {
      this.#mixer.receive(data);
      this.#report();
    };
  }

  process(_inputs: Float32Array[][], [output]: Float32Array[][]): boolean {
    if (!output) return true;
    this.#mixer.process(output, QUANTUM_FRAMES);
    this.#nextContextFrame = currentFrame + QUANTUM_FRAMES;
    this.#unreported += QUANTUM_FRAMES;
    if (this.#unreported >= this.#reportFrames) this.#report();
    return true;
  }

  #report(): void {
    const report: FromWorklet = { ...this.#mixer.report(), contextFrame: this.#nextContextFrame };
    this.#unreported = 0;
    // While nothing is played there is nothing to tell, but once that it has stopped.
    if (!report.isPlaying && !this.#wasPlaying) return;
    this.#wasPlaying = report.isPlaying;
    this.port.postMessage(report);
  }
}

registerProcessor(WORKLET_NAME, AuditionProcessor);
