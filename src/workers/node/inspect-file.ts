import { inspect, mostInspectedFrames } from '@/core/inspection/inspect';
import type { Inspection } from '@/core/inspection/inspection';
import type { Series } from '@/core/loudness/series';
import type { SampleType } from '@/core/units/sample-encoding';
import type { PcmHeader } from '@/formats/pcm-header';
import { unpack } from '@/formats/samples';
import { UsedBits } from '@/formats/used-bits';
import type { FileSource } from './file-bytes';

/** Types of samples that hold a lesser depth now and then, and that depth. */
const LESSER_DEPTHS: Readonly<Partial<Record<SampleType, number>>> = { s16: 8, s24: 16, s32: 24 };
const SCAN_BYTES = 300_000;

/** Inspects a measured file, and finds how many bits its samples use: null for floats, bytes and silence. */
export async function inspectFile(
  file: FileSource,
  header: PcmHeader,
  series: Series,
): Promise<{ inspection: Inspection; usedBits: number | null }> {
  const { format, encoding, frameBytes, dataOffset } = header;
  const lesserDepth = LESSER_DEPTHS[encoding.type];
  const usedBits = new UsedBits(encoding);
  const bytes = new Uint8Array(mostInspectedFrames(format.sampleRateHz) * frameBytes);
  const read = async (startFrame: number, wanted: number) => {
    const target = bytes.subarray(0, wanted * frameBytes);
    const frames = Math.floor((await file.read(target, dataOffset + startFrame * frameBytes)) / frameBytes);
    const planar = Array.from({ length: format.channels }, () => new Float32Array(frames));
    unpack(target, frames, encoding, planar);
    if (lesserDepth !== undefined && !usedBits.isFull) usedBits.add(target.subarray(0, frames * frameBytes));
    return planar;
  };
  const inspection = await inspect(read, series, format);
  if (lesserDepth !== undefined) await scan(file, header, usedBits, lesserDepth);
  return { inspection, usedBits: usedBits.count || null };
}

/** Where the places looked at use a lesser depth only, all of the file is asked: one sample that uses more is enough. */
async function scan(
  file: FileSource,
  { dataOffset, frameBytes, format }: PcmHeader,
  usedBits: UsedBits,
  lesserDepth: number,
): Promise<void> {
  const bytes = new Uint8Array(Math.max(1, Math.floor(SCAN_BYTES / frameBytes)) * frameBytes);
  const end = dataOffset + format.frames * frameBytes;
  for (let at = dataOffset; at < end && usedBits.count <= lesserDepth; at += bytes.length) {
    const got = await file.read(bytes.subarray(0, Math.min(bytes.length, end - at)), at);
    if (got === 0) return;
    usedBits.add(bytes.subarray(0, got));
  }
}
