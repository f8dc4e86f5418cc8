/**
 * The header of a WAV file: RIFF/WAVE (RIFX where it is big-endian) with WAVEFORMATEX or WAVE_FORMAT_EXTENSIBLE, RF64 (EBU Tech 3306) and BW64
 * (ITU-R BS.2088) with `ds64`. All from memory.
 */

import { AppError } from '@/core/errors/app-error';
import type { SampleType } from '@/core/units/sample-encoding';
import type { PcmContainer } from '../audio-format';
import { type ByteSource, fourCharacters, readBytes } from '../bytes';
import { chunksOf } from '../chunks';
import { checkReadable, type PcmHeader, pcmHeader, type SampleLayout } from '../pcm-header';

export const FORMAT_PCM = 0x0001;
export const FORMAT_FLOAT = 0x0003;
export const FORMAT_EXTENSIBLE = 0xfffe;
/** The last 14 bytes of every wave-format GUID; the first two are the format tag. */
export const SUBFORMAT_TAIL = [0, 0, 0, 0, 0x10, 0, 0x80, 0, 0, 0xaa, 0, 0x38, 0x9b, 0x71] as const;

/** Bits of a container → how its samples are written. */
const INTEGERS: Readonly<Record<number, SampleType>> = { 8: 'u8', 16: 's16', 24: 's24', 32: 's32' };
const FLOATS: Readonly<Record<number, SampleType>> = { 32: 'f32', 64: 'f64' };

/** How samples are written, and where they begin. */
export interface FoundSamples {
  container: PcmContainer;
  layout: SampleLayout;
  dataOffset: number;
  /** As it is stated; undefined where it is not known. */
  dataBytes: number | undefined;
}

/**
 * Reads the header by walking the chunks up to the samples. Throws an AppError that names what is wrong; never reads the
 * samples.
 */
export async function readWavHeader(source: ByteSource, fileName: string): Promise<PcmHeader> {
  const { container, layout, dataOffset, dataBytes } = await findWavSamples(source, fileName);
  return pcmHeader(source, fileName, container, layout, dataOffset, dataBytes);
}

/** The same of a file of which there may be no more yet than its beginning: whether there are samples is not asked. */
export async function findWavSamples(source: ByteSource, fileName: string): Promise<FoundSamples> {
  if (source.size === 0) throw new AppError('empty-file', { fileName });
  const head = await readBytes(source, 0, 12);
  const container = head.byteLength === 12 ? containerOf(head) : undefined;
  const isLittleEndian = container !== 'RIFX';
  if (!container) throw new AppError('not-audio', { fileName });

  let layout: SampleLayout | undefined;
  for await (const { id, offset, bytes } of chunksOf(source, isLittleEndian)) {
    if (id === 'fmt ') {
      layout = parseFormat(await readBytes(source, offset, Math.min(bytes ?? 0, 40)), isLittleEndian, fileName);
    } else if (id === 'data') {
      if (!layout) throw new AppError('header-damaged', { fileName, reason: 'the audio comes before its format' });
      return { container, layout, dataOffset: offset, dataBytes: bytes };
    }
  }
  if (!layout) throw new AppError('header-damaged', { fileName, reason: 'it does not state the format of its audio' });
  throw new AppError('no-audio', { fileName });
}

function containerOf(data: DataView): PcmContainer | undefined {
  if (fourCharacters(data, 8) !== 'WAVE') return undefined;
  switch (fourCharacters(data, 0)) {
    case 'RIFF':
      return 'WAV';
    case 'RIFX':
      return 'RIFX';
    case 'RF64':
      return 'RF64';
    case 'BW64':
      return 'BW64';
    default:
      return undefined;
  }
}

function parseFormat(body: DataView, isLittleEndian: boolean, fileName: string): SampleLayout {
  if (body.byteLength < 16) {
    throw new AppError('header-damaged', { fileName, reason: 'the description of its format is cut short' });
  }
  let formatTag = body.getUint16(0, isLittleEndian);
  const channels = body.getUint16(2, isLittleEndian);
  const sampleRateHz = body.getUint32(4, isLittleEndian);
  const blockAlign = body.getUint16(12, isLittleEndian);
  const containerBits = body.getUint16(14, isLittleEndian);
  let bitDepth = containerBits;
  let channelMask = 0;
  if (formatTag === FORMAT_EXTENSIBLE) {
    if (body.byteLength < 40) {
      throw new AppError('header-damaged', { fileName, reason: 'the extension of its format is cut short' });
    }
    bitDepth = body.getUint16(18, isLittleEndian) || containerBits;
    channelMask = body.getUint32(20, isLittleEndian);
    formatTag = body.getUint16(24, isLittleEndian);
  }
  if (formatTag !== FORMAT_PCM && formatTag !== FORMAT_FLOAT) {
    throw new AppError('unsupported-codec', { fileName, formatTag: `0x${formatTag.toString(16).padStart(4, '0')}` });
  }
  checkReadable({ channels, sampleRateHz }, fileName);
  const isFloat = formatTag === FORMAT_FLOAT;
  const type = (isFloat ? FLOATS : INTEGERS)[containerBits];
  if (!type) {
    const sampleFormat = isFloat ? 'float' : 'integer';
    throw new AppError('unsupported-depth', { fileName, bitDepth: containerBits, sampleFormat });
  }
  const frameBytes = (channels * containerBits) / 8;
  if (blockAlign !== frameBytes) {
    throw new AppError('header-damaged', {
      fileName,
      reason: `it states ${blockAlign} bytes a frame where its format has ${frameBytes}`,
    });
  }
  if (bitDepth > containerBits) bitDepth = containerBits;
  return { sampleRateHz, channels, channelMask, bitDepth, type, isBigEndian: !isLittleEndian };
}
