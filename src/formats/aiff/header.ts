/**
 * The header of an AIFF or AIFF-C file: the Audio Interchange File Format, version 1.3, and its draft of 1991 for
 * compressed data, of which only the kinds that hold plain samples are read (`sowt` and the floats came later). All from
 * memory.
 */
import { AppError } from '@/core/errors/app-error';
import type { SampleType } from '@/core/units/sample-encoding';
import { type ByteSource, fourCharacters, readBytes } from '../bytes';
import { chunksOf } from '../chunks';
import { checkReadable, type PcmHeader, pcmHeader, type SampleLayout } from '../pcm-header';

/** Integers stand in the upper bits of as many whole bytes as they need. */
const INTEGERS: readonly SampleType[] = ['s8', 's16', 's24', 's32'];

/**
 * Tags of a `CHAN` chunk, as Core Audio's layouts have them (from memory): the loudspeakers by bits, which are those of WAV's
 * mask; or one of a list, of which those are read whose channels stand in the order of such bits.
 */
export const LAYOUT_BY_BITMAP = 0x10000;
const LAYOUT_TAGS: Readonly<Record<number, number>> = {
  6553601: 0x4,
  6619138: 0x3,
  7077892: 0x33,
  7405571: 0x7,
  7667717: 0x37,
  7929862: 0x3f,
};

interface CommonChunk extends SampleLayout {
  statedFrames: number;
}

/** Whether a file's first twelve bytes are those of an AIFF or AIFF-C. */
export function isAiff(head: DataView): boolean {
  return head.byteLength === 12 && fourCharacters(head, 0) === 'FORM' && /^AIF[FC]$/.test(fourCharacters(head, 8));
}

/**
 * Reads the header by walking the chunks, which stand in any order. Throws an AppError that names what is wrong; never
 * reads the samples.
 */
export async function readAiffHeader(source: ByteSource, fileName: string): Promise<PcmHeader> {
  const head = await readBytes(source, 0, 12);
  if (!isAiff(head)) throw new AppError('not-audio', { fileName });
  const isCompressed = fourCharacters(head, 8) === 'AIFC';
  let common: CommonChunk | undefined;
  let sound: { offset: number; bytes: number } | undefined;
  let channelMask: number | undefined;
  for await (const { id, offset, bytes = 0 } of chunksOf(source, false)) {
    if (id === 'COMM') {
      common = parseCommon(await readBytes(source, offset, Math.min(bytes, 22)), isCompressed, fileName);
    } else if (id === 'SSND') {
      const body = await readBytes(source, offset, 8);
      // Behind an offset, which is nearly always 0, and the size of blocks that nobody aligns to.
      const skipped = 8 + (body.byteLength === 8 ? body.getUint32(0) : 0);
      sound = { offset: offset + skipped, bytes: Math.max(0, bytes - skipped) };
    }
    if (id === 'CHAN' && bytes >= 8) channelMask = maskOf(await readBytes(source, offset, 8));
    // Which loudspeakers more than two channels are may be said behind the samples too.
    if (common && sound && (common.channels <= 2 || channelMask !== undefined)) break;
  }
  if (!common) throw new AppError('header-damaged', { fileName, reason: 'it does not state the format of its audio' });
  if (!sound) throw new AppError('no-audio', { fileName });
  const { statedFrames, ...stated } = common;
  const layout = { ...stated, channelMask: channelMask ?? 0 };
  const container = isCompressed ? 'AIFF-C' : 'AIFF';
  // A recording that was interrupted has neither a count of frames nor a size.
  const statedBytes = statedFrames === 0 && sound.bytes === 0 ? undefined : sound.bytes;
  const header = pcmHeader(source, fileName, container, layout, sound.offset, statedBytes);
  if (header.sizeUnknown || statedFrames === 0) return header;
  return withStatedFrames(header, statedFrames);
}

/** What stands behind the stated frames is no sound; what is stated and not there is missing. */
function withStatedFrames(header: PcmHeader, statedFrames: number): PcmHeader {
  const frames = Math.min(header.format.frames, statedFrames);
  return {
    ...header,
    format: { ...header.format, frames, durationSeconds: frames / header.format.sampleRateHz },
    missingFrames: statedFrames - frames,
  };
}

function maskOf(body: DataView): number {
  if (body.byteLength < 8) return 0;
  const tag = body.getUint32(0);
  return tag === LAYOUT_BY_BITMAP ? body.getUint32(4) : (LAYOUT_TAGS[tag] ?? 0);
}

function parseCommon(body: DataView, isCompressed: boolean, fileName: string): CommonChunk {
  if (body.byteLength < (isCompressed ? 22 : 18)) {
    throw new AppError('header-damaged', { fileName, reason: 'the description of its format is cut short' });
  }
  const channels = body.getUint16(0);
  const bitDepth = body.getUint16(6);
  const sampleRateHz = extendedFloat(body, 8);
  checkReadable({ channels, sampleRateHz }, fileName);
  const { type, isBigEndian } = encodingOf(isCompressed ? fourCharacters(body, 18) : 'NONE', bitDepth, fileName);
  return { sampleRateHz, channels, channelMask: 0, bitDepth, type, isBigEndian, statedFrames: body.getUint32(2) };
}

function encodingOf(kind: string, bitDepth: number, fileName: string): Pick<SampleLayout, 'type' | 'isBigEndian'> {
  const integer = INTEGERS[Math.ceil(bitDepth / 8) - 1];
  switch (kind) {
    case 'NONE':
    case 'twos':
    case 'in24':
    case 'in32':
      if (integer) return { type: integer, isBigEndian: true };
      break;
    case 'sowt':
      if (integer) return { type: integer, isBigEndian: false };
      break;
    case 'fl32':
    case 'FL32':
      return { type: 'f32', isBigEndian: true };
    case 'fl64':
    case 'FL64':
      return { type: 'f64', isBigEndian: true };
    case 'raw ':
      return { type: 'u8', isBigEndian: true };
    default:
      throw new AppError('unsupported-codec', { fileName, formatTag: printable(kind) });
  }
  throw new AppError('unsupported-depth', { fileName, bitDepth, sampleFormat: 'integer' });
}

/** An 80-bit float of IEEE 754: sign and exponent in 16 bits, then a mantissa of 64 with its leading one. */
function extendedFloat(data: DataView, offset: number): number {
  const signAndExponent = data.getUint16(offset);
  const mantissa = data.getUint32(offset + 2) * 2 ** 32 + data.getUint32(offset + 6);
  const magnitude = mantissa * 2 ** ((signAndExponent & 0x7fff) - 16383 - 63);
  return signAndExponent & 0x8000 ? -magnitude : magnitude;
}

function printable(kind: string): string {
  return kind.replace(/[^ -~]/g, '?');
}
