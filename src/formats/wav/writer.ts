import type { ByteSink } from '../bytes';
import type { ChunkBody } from '../chunks';
import { dataBytes, frameBytes, type PcmLayout, PcmWriter, WRITTEN_BIT_DEPTH } from '../pcm-writer';
import { FORMAT_EXTENSIBLE, FORMAT_FLOAT, FORMAT_PCM, SUBFORMAT_TAIL } from './header';

export interface WavLayout extends PcmLayout {
  channelMask: number;
  /** What is written ahead of the samples, each as it is given. */
  chunks?: readonly ChunkBody[];
  /** A BW64 (ITU-R BS.2088, from memory), whose sizes have 64 bits whatever its length. */
  isBw64?: boolean;
  /**
   * It will hold more frames later: room for sizes of 64 bits is kept, as a JUNK chunk, so that what stands ahead of the samples is as long
   * whatever their number; beyond 4 GiB it is a BW64.
   */
  isGrowing?: boolean;
}

const GREATEST_RIFF_BYTES = 0xffffffff;
const DS64_BYTES = 28;
/** Mono and stereo, or nothing stated: what a plain header means anyway. */
const PLAIN_MASKS = [0, 0x4, 0x3];

/**
 * Writes a WAV of a length known beforehand, header first, so that a sink needs no seeking. More than 4 GiB are written
 * as RF64 (EBU Tech 3306, from memory).
 */
export async function createWavWriter(sink: ByteSink, layout: WavLayout): Promise<PcmWriter> {
  await sink.write(wavHeader(layout));
  return new PcmWriter(sink, layout, false);
}

/** Size in bytes of the whole file that a layout makes. */
export function wavFileBytes(layout: WavLayout): number {
  const data = dataBytes(layout);
  return wavHeader(layout).length + data + (data % 2);
}

/** Everything that stands ahead of the samples. */
export function wavHeader(layout: WavLayout): Uint8Array {
  const { sampleRateHz, channels, channelMask, bitDepth = WRITTEN_BIT_DEPTH, chunks = [] } = layout;
  const formatTag = bitDepth === 32 ? FORMAT_FLOAT : FORMAT_PCM;
  const isExtensible = channels > 2 || !PLAIN_MASKS.includes(channelMask);
  const isFloat = formatTag === FORMAT_FLOAT;
  // What is not plain PCM has an extension, if an empty one, and a chunk with its length (Microsoft, New Multimedia Data Types, 1994; from memory).
  const formatBytes = isExtensible ? 40 : isFloat ? 18 : 16;
  const factBytes = isFloat ? 12 : 0;
  const data = dataBytes(layout);
  const chunkBytes = chunks.reduce((sum, { body }) => sum + 8 + body.length + (body.length % 2), 0);
  const plainBytes = 12 + 8 + formatBytes + factBytes + chunkBytes + 8;
  const reserved = 8 + DS64_BYTES;
  const plainSize = plainBytes + (layout.isGrowing ? reserved : 0) + data + (data % 2);
  const isLarge = layout.isBw64 === true || plainSize - 8 > GREATEST_RIFF_BYTES;
  const header = new Uint8Array(plainBytes + (isLarge || layout.isGrowing ? reserved : 0));
  const view = new DataView(header.buffer);
  let at = 0;
  const text = (characters: string) => {
    for (const character of characters) view.setUint8(at++, character.charCodeAt(0));
  };
  const uint16 = (value: number) => {
    view.setUint16(at, value, true);
    at += 2;
  };
  const uint32 = (value: number) => {
    view.setUint32(at, value, true);
    at += 4;
  };
  const uint64 = (value: number) => {
    view.setBigUint64(at, BigInt(value), true);
    at += 8;
  };

  const riffBytes = header.length + data + (data % 2) - 8;
  const isBw64 = layout.isBw64 || (isLarge && layout.isGrowing);
  text(isBw64 ? 'BW64' : isLarge ? 'RF64' : 'RIFF');
  uint32(isLarge ? GREATEST_RIFF_BYTES : riffBytes);
  text('WAVE');
  if (isLarge) {
    text('ds64');
    uint32(DS64_BYTES);
    uint64(riffBytes);
    uint64(data);
    uint64(layout.frames);
    uint32(0);
  } else if (layout.isGrowing) {
    text('JUNK');
    uint32(DS64_BYTES);
    at += DS64_BYTES;
  }
  text('fmt ');
  uint32(formatBytes);
  uint16(isExtensible ? FORMAT_EXTENSIBLE : formatTag);
  uint16(channels);
  uint32(sampleRateHz);
  uint32(sampleRateHz * frameBytes(layout));
  uint16(frameBytes(layout));
  uint16(bitDepth);
  if (isExtensible) {
    uint16(22);
    uint16(bitDepth);
    uint32(channelMask);
    uint16(formatTag);
    for (const byte of SUBFORMAT_TAIL) view.setUint8(at++, byte);
  }
  if (isFloat && !isExtensible) uint16(0);
  if (isFloat) {
    text('fact');
    uint32(4);
    uint32(Math.min(layout.frames, GREATEST_RIFF_BYTES));
  }
  for (const { id, body } of chunks) {
    text(id);
    uint32(body.length);
    header.set(body, at);
    at += body.length + (body.length % 2);
  }
  text('data');
  uint32(isLarge ? GREATEST_RIFF_BYTES : data);
  return header;
}
