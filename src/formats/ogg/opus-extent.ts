/**
 * What of an Opus file is played (RFC 7845): the samples ahead of its first, in its header, and where its last page ends. Pages are those
 * of Ogg (RFC 3533).
 */
const CAPTURE = [0x4f, 0x67, 0x67, 0x53];
const HEADER_BYTES = 27;
const FLAGS_AT = 5;
const GRANULE_AT = 6;
const SUM_AT = 22;
const END_OF_STREAM = 0x04;
/** In the first packet, behind `OpusHead`, version and channels. */
const PRE_SKIP_AT = 10;

/** Granules count at this rate, whatever that of the source. */
export const OPUS_HZ = 48_000;

/** A page whose header is there whole. */
export interface OggPage {
  /** Where it begins in the bytes. */
  offset: number;
  bytes: number;
  granule: bigint;
}

/** The page that begins at an offset; undefined where none does, or where not all of it is there. */
function pageAt(bytes: Uint8Array, offset: number): OggPage | undefined {
  if (!CAPTURE.every((byte, i) => bytes[offset + i] === byte)) return undefined;
  const segments = bytes[offset + HEADER_BYTES - 1];
  if (segments === undefined) return undefined;
  const table = bytes.subarray(offset + HEADER_BYTES, offset + HEADER_BYTES + segments);
  const length = HEADER_BYTES + segments + table.reduce((sum, size) => sum + size, 0);
  if (table.length < segments || offset + length > bytes.length) return undefined;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return { offset, bytes: length, granule: view.getBigInt64(offset + GRANULE_AT, true) };
}

/** The pages from an offset on that are there whole. */
export function pagesFrom(bytes: Uint8Array, offset: number): OggPage[] {
  const pages: OggPage[] = [];
  for (let page = pageAt(bytes, offset); page; page = pageAt(bytes, page.offset + page.bytes)) pages.push(page);
  return pages;
}

/** How many samples a decoder drops ahead of the first, as the first page states it. */
export function preSkip(firstPage: Uint8Array): number {
  return viewOf(firstPage).getUint16(headOf(firstPage) + PRE_SKIP_AT, true);
}

/** The first page with so many samples more that are dropped. */
export function withPreSkip(firstPage: Uint8Array, samples: number): Uint8Array {
  const page = firstPage.slice();
  viewOf(page).setUint16(headOf(page) + PRE_SKIP_AT, samples, true);
  return summed(page);
}

/** A page as the last of its stream, that ends at a granule: without the packets that lie behind that. */
export function asLastPage(page: Uint8Array, granule: bigint): Uint8Array {
  const sizes = [...page.subarray(HEADER_BYTES, headOf(page))];
  const isEnd = (size: number | undefined) => size !== undefined && size < CONTINUED;
  const samples = packetSamples(page.subarray(headOf(page)));
  const behind = Math.max(0, Math.floor(Number(viewOf(page).getBigInt64(GRANULE_AT, true) - granule) / samples));
  // What is begun and goes on in the next page is behind its end too.
  while (sizes.length > 0 && !isEnd(sizes.at(-1))) sizes.pop();
  for (let dropped = 0; dropped < behind && sizes.filter(isEnd).length > 1; dropped++) {
    sizes.pop();
    while (!isEnd(sizes.at(-1))) sizes.pop();
  }
  const audio = sizes.reduce((sum, size) => sum + size, 0);
  const last = Uint8Array.from([
    ...page.subarray(0, HEADER_BYTES - 1),
    sizes.length,
    ...sizes,
    ...page.subarray(headOf(page), headOf(page) + audio),
  ]);
  last[FLAGS_AT] = (last[FLAGS_AT] as number) | END_OF_STREAM;
  viewOf(last).setBigInt64(GRANULE_AT, granule, true);
  return summed(last);
}

/** A segment of so many bytes goes on in the next one. */
const CONTINUED = 255;

/** How many samples a packet holds, by its first bytes (RFC 6716, section 3.1). */
function packetSamples(packet: Uint8Array): number {
  const [first = 0, second = 0] = packet;
  const config = first >> 3;
  const milliseconds =
    config < 12
      ? ([10, 20, 40, 60][config % 4] as number)
      : config < 16
        ? ([10, 20][config % 2] as number)
        : ([2.5, 5, 10, 20][config % 4] as number);
  const frames = [1, 2, 2, second & 0x3f][first & 3] as number;
  return (frames * milliseconds * OPUS_HZ) / 1000;
}

function headOf(page: Uint8Array): number {
  return HEADER_BYTES + (page[HEADER_BYTES - 1] as number);
}

function summed(page: Uint8Array): Uint8Array {
  const view = viewOf(page);
  view.setUint32(SUM_AT, 0, true);
  view.setUint32(SUM_AT, crc32(page), true);
  return page;
}

/** CRC-32 of polynomial 0x04c11db7, bits in order, from 0 and not inverted (RFC 3533). */
function crc32(bytes: Uint8Array): number {
  let crc = 0;
  for (const byte of bytes) {
    crc ^= byte << 24;
    for (let bit = 0; bit < 8; bit++) crc = crc & 0x80000000 ? (crc << 1) ^ 0x04c11db7 : crc << 1;
  }
  return crc >>> 0;
}

function viewOf({ buffer, byteOffset, byteLength }: Uint8Array): DataView {
  return new DataView(buffer, byteOffset, byteLength);
}
