/**
 * The bit rate of MPEG audio of layers 2 and 3, told by the header of every frame (ISO/IEC 11172-3 and 13818-3, from memory):
 * what a file states of itself, or its first frame, is only a claim.
 */
const KBPS: Readonly<Record<string, readonly number[]>> = {
  'mpeg1 layer2': [32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384],
  'mpeg1 layer3': [32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320],
  mpeg2: [8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160],
};
const RATES_HZ = [44_100, 48_000, 32_000] as const;
const HEADER_BYTES = 4;
const ID3_HEADER_BYTES = 10;
/** A lone frame header in other bytes is chance: so many in a row are a stream. */
const LEAST_FRAMES = 3;

export interface MpegBitRate {
  mode: 'constant' | 'variable';
  /** Of its frames, over its length. */
  bitRateBps: number;
}

interface Frame {
  bytes: number;
  kbps: number;
  seconds: number;
}

/** Takes a file's bytes in pieces of any size, and counts its frames. */
export class MpegFrameCounter {
  #rest = new Uint8Array(0);
  /** Bytes that are not looked at: the rest of a frame, or of a tag at the beginning. */
  #skip = 0;
  #isAtStart = true;
  #frames = 0;
  #bytes = 0;
  #seconds = 0;
  /** Those of all frames but the first, which may be a table of contents at a rate of its own. */
  readonly #kbps = new Set<number>();

  push(piece: Uint8Array): void {
    const bytes = new Uint8Array(this.#rest.length + piece.length);
    bytes.set(this.#rest);
    bytes.set(piece, this.#rest.length);
    let at = 0;
    for (;;) {
      const skipped = Math.min(this.#skip, bytes.length - at);
      at += skipped;
      this.#skip -= skipped;
      if (bytes.length - at < (this.#isAtStart ? ID3_HEADER_BYTES : HEADER_BYTES)) break;
      at += this.#step(bytes.subarray(at));
    }
    this.#rest = bytes.slice(at);
  }

  /** Undefined where there are no frames to tell it by. */
  result(): MpegBitRate | undefined {
    if (this.#frames < LEAST_FRAMES) return undefined;
    const mode = this.#kbps.size === 1 ? 'constant' : 'variable';
    const [only = 0] = this.#kbps;
    return { mode, bitRateBps: mode === 'constant' ? 1000 * only : Math.round((8 * this.#bytes) / this.#seconds) };
  }

  /** Looks at what stands here; returns how many bytes to go on by at once. */
  #step(bytes: Uint8Array): number {
    if (this.#isAtStart) {
      this.#isAtStart = false;
      if (bytes[0] === 0x49 && bytes[1] === 0x44 && bytes[2] === 0x33) {
        const size = [6, 7, 8, 9].reduce((sum, i) => sum * 128 + ((bytes[i] ?? 0) & 0x7f), 0);
        this.#skip = ID3_HEADER_BYTES + size;
        this.#isAtStart = true;
        return 0;
      }
    }
    const frame = frameAt(bytes);
    if (!frame) return 1;
    this.#frames++;
    this.#bytes += frame.bytes;
    this.#seconds += frame.seconds;
    if (this.#frames > 1) this.#kbps.add(frame.kbps);
    this.#skip = frame.bytes;
    return 0;
  }
}

function frameAt(bytes: Uint8Array): Frame | undefined {
  const [first = 0, second = 0, third = 0] = bytes;
  if (first !== 0xff || (second & 0xe0) !== 0xe0) return undefined;
  const version = (second >> 3) & 3;
  const layer = 4 - ((second >> 1) & 3);
  const rateIndex = (third >> 2) & 3;
  const bitRateIndex = third >> 4;
  if (version === 1 || (layer !== 2 && layer !== 3) || rateIndex === 3 || bitRateIndex === 0 || bitRateIndex === 15) {
    return undefined;
  }
  const isMpeg1 = version === 3;
  const sampleRateHz = (RATES_HZ[rateIndex] ?? 0) / (isMpeg1 ? 1 : version === 2 ? 2 : 4);
  const kbps = (KBPS[isMpeg1 ? `mpeg1 layer${layer}` : 'mpeg2'] as readonly number[])[bitRateIndex - 1] ?? 0;
  const frames = layer === 3 && !isMpeg1 ? 576 : 1152;
  const padding = (third >> 1) & 1;
  return {
    kbps,
    bytes: Math.floor(((frames / 8) * 1000 * kbps) / sampleRateHz) + padding,
    seconds: frames / sampleRateHz,
  };
}
