/**
 * The length that an MP3 states for itself: the `Info` or `Xing` frame at its beginning, with the frames that follow and
 * the samples that its encoder has put ahead and behind (LAME's extension of the Xing header, from memory).
 */
const HEADER_FLAGS = 0x0f;
/** From the four letters on: flags, frames, bytes, a table of a hundred, a quality. */
const FLAGS_AT = 4;
const FRAMES_AT = 8;
const EXTENSION_AT = 120;
/** In the extension: twelve bits of delay and twelve of padding; at its end the sum over all that stands before. */
const DELAYS_AT = EXTENSION_AT + 21;
const SUM_AT = EXTENSION_AT + 34;
const SEARCHED_BYTES = 200;
const MOST_PADDING = 0xfff;

/** Where an `Info` frame states its padding, and what it has to be for so many frames of sound. */
export interface PaddingPatch {
  /** In the file. */
  offset: number;
  bytes: Uint8Array;
}

/**
 * What has to be written over an MP3's own statement for it to begin and end with its sound; undefined where it does already,
 * or states nothing.
 *
 * @param head the bytes of the file from `offset` on, where its first frame begins
 * @param frames of its sound
 * @param aheadFrames that were encoded ahead of it, and are not to be played
 */
export function paddingPatch(
  head: Uint8Array,
  offset: number,
  frames: number,
  aheadFrames = 0,
): PaddingPatch | undefined {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const tagAt = findTag(head);
  if (tagAt === undefined || head.length < tagAt + SUM_AT + 2) return undefined;
  if ((view.getUint32(tagAt + FLAGS_AT) & HEADER_FLAGS) !== HEADER_FLAGS) return undefined;
  const frameSamples = isMpeg1(head) ? 1152 : 576;
  const delays = (view.getUint16(tagAt + DELAYS_AT) << 8) | (head[tagAt + DELAYS_AT + 2] ?? 0);
  const delay = (delays >> 12) + aheadFrames;
  const padding = view.getUint32(tagAt + FRAMES_AT) * frameSamples - delay - frames;
  const isStated = aheadFrames === 0 && padding === (delays & MOST_PADDING);
  if (isStated || padding < 0 || padding > MOST_PADDING || delay > MOST_PADDING) return undefined;
  const patched = head.slice(0, tagAt + SUM_AT + 2);
  const stated = (delay << 12) | padding;
  patched.set([stated >> 16, (stated >> 8) & 0xff, stated & 0xff], tagAt + DELAYS_AT);
  const sum = crc16(patched.subarray(0, tagAt + SUM_AT));
  patched.set([sum >> 8, sum & 0xff], tagAt + SUM_AT);
  return { offset: offset + tagAt + DELAYS_AT, bytes: patched.subarray(tagAt + DELAYS_AT) };
}

/** Behind the header and the side information of the first frame, whose size goes by version and channels. */
function findTag(head: Uint8Array): number | undefined {
  const text = new TextDecoder('latin1').decode(head.subarray(0, SEARCHED_BYTES));
  const places = [text.indexOf('Info'), text.indexOf('Xing')].filter((at) => at > 0);
  return places.length > 0 ? Math.min(...places) : undefined;
}

function isMpeg1(head: Uint8Array): boolean {
  return (((head[1] ?? 0) >> 3) & 3) === 3;
}

/** CRC-16 of polynomial 0x8005, bits in reverse, from 0. */
function crc16(bytes: Uint8Array): number {
  let crc = 0;
  for (const byte of bytes) {
    crc ^= byte;
    for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >> 1) ^ 0xa001 : crc >> 1;
  }
  return crc;
}

/** How many bytes an ID3v2 tag takes at the beginning of a file, 0 where there is none. */
export function id3Bytes(head: Uint8Array): number {
  if (head.length < 10 || new TextDecoder('latin1').decode(head.subarray(0, 3)) !== 'ID3') return 0;
  return 10 + [6, 7, 8, 9].reduce((size, at) => size * 128 + ((head[at] ?? 0) & 0x7f), 0);
}
