import { AppError } from '@/core/errors/app-error';
import type { Tags } from '@/core/file-formats/tags';
import type { ByteSink } from '../bytes';
import { dataBytes, type PcmLayout, PcmWriter, WRITTEN_BIT_DEPTH } from '../pcm-writer';
import { LAYOUT_BY_BITMAP } from './header';

/** The one version of AIFF-C: 23 May 1990, in seconds since 1904. */
const AIFC_VERSION = 0xa2805140;
const GREATEST_BYTES = 0xffffffff;

interface AiffLayout extends PcmLayout {
  /** As WAV has it; 0 where no mask names the loudspeakers. */
  channelMask: number;
  tags?: Tags | undefined;
}

/**
 * Writes an AIFF, or an AIFF-C where the samples are floats, of a length known beforehand, header first (Audio
 * Interchange File Format 1.3, from memory).
 *
 * @param fileName what a person calls the file, for errors
 * @throws AppError `not-writable` where it would be larger than the format can say
 */
export async function createAiffWriter(sink: ByteSink, layout: AiffLayout, fileName: string): Promise<PcmWriter> {
  const chunks = [...layoutChunk(layout), ...(layout.tags ? textsOf(layout.tags) : [])];
  const header = aiffHeader(layout, chunks);
  if (header.length + dataBytes(layout) > GREATEST_BYTES) {
    throw new AppError('not-writable', { fileName, reason: 'an AIFF file holds no more than 4 GiB; a WAV does' });
  }
  await sink.write(header);
  return new PcmWriter(sink, layout, true);
}

/** Which loudspeakers there are: what a reader without it takes more than two channels for is anybody's guess. */
function layoutChunk({ channels, channelMask }: AiffLayout): [string, Uint8Array][] {
  if (channels <= 2 || channelMask === 0) return [];
  const body = new DataView(new ArrayBuffer(12));
  body.setUint32(0, LAYOUT_BY_BITMAP);
  body.setUint32(4, channelMask);
  return [['CHAN', new Uint8Array(body.buffer)]];
}

/** Name, author and annotation: all that the format itself has a place for. The rest stands in an ID3 tag. */
function textsOf({ title, artist, comment }: Tags): [string, Uint8Array][] {
  const texts: [string, string][] = [
    ['NAME', title],
    ['AUTH', artist],
    ['ANNO', comment],
  ];
  return texts.flatMap(([id, text]) => (text ? [[id, new TextEncoder().encode(text)] as [string, Uint8Array]] : []));
}

function aiffHeader(layout: PcmLayout, texts: readonly (readonly [string, Uint8Array])[]): Uint8Array {
  const { sampleRateHz, channels, frames, bitDepth = WRITTEN_BIT_DEPTH } = layout;
  const isFloat = bitDepth === 32;
  const commonBytes = isFloat ? 24 : 18;
  const textBytes = texts.reduce((sum, [, text]) => sum + 8 + text.length + (text.length % 2), 0);
  const header = new Uint8Array(12 + (isFloat ? 12 : 0) + 8 + commonBytes + textBytes + 16);
  const view = new DataView(header.buffer);
  let at = 0;
  const text = (characters: string) => {
    for (const character of characters) view.setUint8(at++, character.charCodeAt(0));
  };
  const uint16 = (value: number) => {
    view.setUint16(at, value);
    at += 2;
  };
  const uint32 = (value: number) => {
    view.setUint32(at, value);
    at += 4;
  };
  const data = dataBytes(layout);
  text('FORM');
  uint32(Math.min(GREATEST_BYTES, header.length + data + (data % 2) - 8));
  text(isFloat ? 'AIFC' : 'AIFF');
  if (isFloat) {
    text('FVER');
    uint32(4);
    uint32(AIFC_VERSION);
  }
  text('COMM');
  uint32(commonBytes);
  uint16(channels);
  uint32(frames);
  uint16(bitDepth);
  // An 80-bit float: a sample rate is a whole number, so its mantissa holds it exactly.
  const exponent = Math.floor(Math.log2(sampleRateHz));
  uint16(16383 + exponent);
  const mantissa = BigInt(Math.round(sampleRateHz)) << BigInt(63 - exponent);
  view.setBigUint64(at, mantissa);
  at += 8;
  if (isFloat) {
    text('fl32');
    // A name of no characters, and the byte that makes it even.
    uint16(0);
  }
  for (const [id, bytes] of texts) {
    text(id);
    uint32(bytes.length);
    header.set(bytes, at);
    at += bytes.length + (bytes.length % 2);
  }
  text('SSND');
  uint32(Math.min(GREATEST_BYTES, data + 8));
  uint32(0);
  uint32(0);
  return header;
}
