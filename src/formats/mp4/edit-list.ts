/**
 * What of an MPEG-4 file is played: its edit list, and the lengths that the movie and its tracks state beside it (ISO/IEC 14496-12, from
 * memory). Files are those of one sound track, whose movie counts time in frames.
 */
interface Box {
  type: string;
  /** Of its first byte, header included. */
  offset: number;
  bytes: number;
  headerBytes: number;
}

/** Boxes that hold others, and among them what is looked for. */
const HOLDERS = ['moov', 'trak', 'edts'];

/**
 * A `moov` box whose edit list begins so many frames later, and lasts for so many; undefined where it has no edit list of one entry.
 *
 * @param moov the box, header included
 */
export function withExtent(
  moov: Uint8Array,
  { aheadFrames, frames }: { aheadFrames: number; frames: number },
): Uint8Array | undefined {
  const patched = moov.slice();
  const view = new DataView(patched.buffer);
  const boxes = flattened(patched, 0, patched.length);
  const edits = boxes.filter(({ type }) => type === 'elst');
  const [edit] = edits;
  if (!edit || edits.length > 1) return undefined;
  const at = edit.offset + edit.headerBytes;
  const isLong = view.getUint8(at) === 1;
  if (view.getUint32(at + 4) !== 1) return undefined;
  if (isLong) {
    view.setBigUint64(at + 8, BigInt(frames));
    view.setBigInt64(at + 16, view.getBigInt64(at + 16) + BigInt(aheadFrames));
  } else {
    view.setUint32(at + 8, frames);
    view.setInt32(at + 12, view.getInt32(at + 12) + aheadFrames);
  }
  // In their first version: creation and modification are 4 bytes each; in the second 8, and so is the length.
  for (const { type, offset, headerBytes } of boxes) {
    const body = offset + headerBytes;
    const isWide = view.getUint8(body) === 1;
    if (type === 'mvhd') setLength(view, body + (isWide ? 24 : 16), frames, isWide);
    if (type === 'tkhd') setLength(view, body + (isWide ? 28 : 20), frames, isWide);
  }
  return patched;
}

/** Where a box of the outermost level lies in a file's beginning; undefined where it is not there whole. */
export function findBox(bytes: Uint8Array, type: string): { offset: number; bytes: number } | undefined {
  const box = boxesIn(bytes, 0, bytes.length).find((own) => own.type === type);
  return box && box.offset + box.bytes <= bytes.length ? { offset: box.offset, bytes: box.bytes } : undefined;
}

function setLength(view: DataView, at: number, frames: number, isWide: boolean): void {
  if (isWide) view.setBigUint64(at, BigInt(frames));
  else view.setUint32(at, frames);
}

function flattened(bytes: Uint8Array, from: number, to: number): Box[] {
  return boxesIn(bytes, from, to).flatMap((box) =>
    HOLDERS.includes(box.type)
      ? flattened(bytes, box.offset + box.headerBytes, Math.min(to, box.offset + box.bytes))
      : [box],
  );
}

function boxesIn(bytes: Uint8Array, from: number, to: number): Box[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const boxes: Box[] = [];
  for (let offset = from; offset + 8 <= to; ) {
    const stated = view.getUint32(offset);
    const isLong = stated === 1 && offset + 16 <= to;
    const length = isLong ? Number(view.getBigUint64(offset + 8)) : stated === 0 ? to - offset : stated;
    const headerBytes = isLong ? 16 : 8;
    if (length < headerBytes) break;
    const type = String.fromCharCode(...bytes.subarray(offset + 4, offset + 8));
    boxes.push({ type, offset, bytes: length, headerBytes });
    offset += length;
  }
  return boxes;
}
