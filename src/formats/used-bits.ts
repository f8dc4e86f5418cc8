import { type SampleEncoding, sampleBytes } from '@/core/units/sample-encoding';

/** A multiple of every sample's bytes, and of the words that are read at once. */
const PERIOD_BYTES = 12;

/** Finds which bits of integer samples are ever set, over as many bytes as it is shown. */
export class UsedBits {
  readonly #encoding: SampleEncoding;
  readonly #or = new Uint32Array(PERIOD_BYTES / 4);

  /** Whether every bit is known to be used: no more bytes can tell anything. */
  get isFull(): boolean {
    return this.count === 8 * sampleBytes(this.#encoding);
  }

  /** @param encoding of signed integers */
  constructor(encoding: SampleEncoding) {
    this.#encoding = encoding;
  }

  /** @param bytes whole samples, at an offset in their buffer that is a multiple of 4 */
  add(bytes: Uint8Array): void {
    const whole = Math.floor(bytes.length / PERIOD_BYTES);
    const words = new Uint32Array(bytes.buffer, bytes.byteOffset, (whole * PERIOD_BYTES) / 4);
    let [a = 0, b = 0, c = 0] = this.#or;
    for (let i = 0; i < words.length; i += 3) {
      a |= words[i] as number;
      b |= words[i + 1] as number;
      c |= words[i + 2] as number;
    }
    this.#or.set([a, b, c]);
    const rest = bytes.subarray(whole * PERIOD_BYTES);
    const own = new Uint8Array(this.#or.buffer);
    rest.forEach((byte, i) => {
      own[i] = (own[i] as number) | byte;
    });
  }

  /** From the highest bit of a sample to the lowest that was ever set; 0 where none was. */
  get count(): number {
    const width = sampleBytes(this.#encoding);
    const bytes = new Uint8Array(this.#or.buffer);
    for (let i = 0; i < width; i++) {
      // The lowest byte first.
      const place = this.#encoding.isBigEndian ? width - 1 - i : i;
      let byte = 0;
      for (let at = place; at < PERIOD_BYTES; at += width) byte |= bytes[at] as number;
      if (byte !== 0) return 8 * (width - i) - Math.log2(byte & -byte);
    }
    return 0;
  }
}
