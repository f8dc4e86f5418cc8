/** The metadata of a FLAC, block by block (RFC 9639, section 8). */

const HEADER_BYTES = 4;
const LAST_FLAG = 0x80;
const PADDING = 1;
export const CUE_SHEET = 5;

interface Block {
  type: number;
  /** Of its header. */
  offset: number;
  bytes: number;
}

/**
 * A head with one block more, as long as before: it takes the place of padding. Undefined where there is not so much padding.
 *
 * @param head the file from its first byte on, with all of its metadata
 */
export function insertedIntoPadding(head: Uint8Array, type: number, body: Uint8Array): Uint8Array | undefined {
  const blocks = blocksOf(head);
  const padding = blocks.find((block) => block.type === PADDING && fits(block.bytes, body.length));
  if (!padding) return undefined;
  const { offset, bytes } = padding;
  const isLast = (head[offset] as number) & LAST_FLAG;
  const left = bytes - HEADER_BYTES - body.length;
  const patched = head.slice();
  patched.set(blockHeader(type, body.length, left < 0 ? isLast : 0), offset);
  patched.set(body, offset + HEADER_BYTES);
  if (left >= 0) {
    const behind = offset + HEADER_BYTES + body.length;
    patched.set(blockHeader(PADDING, left, isLast), behind);
    patched.fill(0, behind + HEADER_BYTES, behind + HEADER_BYTES + left);
  }
  return patched;
}

/** A head with one block more behind all others. */
export function extendedHead(head: Uint8Array, type: number, body: Uint8Array): Uint8Array {
  const blocks = blocksOf(head);
  const last = blocks.at(-1) as Block;
  const end = metadataBytes(head);
  const extended = new Uint8Array(end + HEADER_BYTES + body.length);
  extended.set(head.subarray(0, end));
  extended[last.offset] = last.type;
  extended.set(blockHeader(type, body.length, LAST_FLAG), end);
  extended.set(body, end + HEADER_BYTES);
  return extended;
}

/** Behind the new block there is padding again, or nothing at all. */
function fits(paddingBytes: number, bodyBytes: number): boolean {
  return paddingBytes === bodyBytes || paddingBytes >= bodyBytes + HEADER_BYTES;
}

/** How many bytes the metadata of a FLAC takes, its signature included. */
export function metadataBytes(head: Uint8Array): number {
  const last = blocksOf(head).at(-1);
  return last ? last.offset + HEADER_BYTES + last.bytes : HEADER_BYTES;
}

function blocksOf(head: Uint8Array): Block[] {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const blocks: Block[] = [];
  for (let offset = HEADER_BYTES; offset + HEADER_BYTES <= head.length; ) {
    const first = head[offset] as number;
    const bytes = view.getUint32(offset) & 0xffffff;
    blocks.push({ type: first & ~LAST_FLAG, offset, bytes });
    if (first & LAST_FLAG) break;
    offset += HEADER_BYTES + bytes;
  }
  return blocks;
}

function blockHeader(type: number, bytes: number, lastFlag: number): Uint8Array {
  return Uint8Array.of(type | lastFlag, (bytes >> 16) & 0xff, (bytes >> 8) & 0xff, bytes & 0xff);
}
