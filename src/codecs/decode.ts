import { open } from 'node:fs/promises';
import { AppError } from '@/core/errors/app-error';
import { appendedChunk, WAV_HEAD_BYTES } from '@/formats/wav/append-chunk';
import { ixmlOf } from '@/formats/wav/xml';
import { INPUT_GUARDS, inputUrl, runFfmpeg } from './ffmpeg';
import { type Probed, probeMetadata } from './probe';

/** A process that hangs is ended; one that is slow gets a tenth of real time. */
const LEAST_TIMEOUT_MS = 120_000;
const MOST_TIMES_SLOWER = 10;
/** What a file may grow to beyond what it states, before it is taken for a trap. */
const MOST_TIMES_LARGER = 2;
const SLACK_BYTES = 256_000_000;

export interface DecodeOptions {
  /** Where the sound begins, of a file that has no place to say so. */
  startFrame?: number | undefined;
  /** Where the sound ends, of a file that says so to the frame and whose decoder does not heed it. */
  endFrame?: number | undefined;
  /** What is decoded says when it begins, as its file does: written files go on from there. */
  isTimed?: boolean | undefined;
  signal?: AbortSignal | undefined;
  /** Called with the seconds of sound that are decoded. */
  onProgress?: ((seconds: number) => void) | undefined;
}

/**
 * Decodes one sound track to a WAV (RF64 beyond 4 GB) at `outputPath`, every frame of it and no other: what an encoder
 * puts ahead and behind is left out where the file tells. Floats keep what stands beyond full scale.
 *
 * @returns how many complaints the decoder had
 */
export async function decode(
  path: string,
  { format, codecName, sampleCodec, joined }: Probed,
  outputPath: string,
  fileName: string,
  { startFrame = 0, endFrame, isTimed = false, signal, onProgress }: DecodeOptions = {},
): Promise<number> {
  const bytes = format.frames * format.channels * 4;
  // AC-3 carries orders to squeeze its dynamics; what is measured is the sound as it was encoded.
  const decoderOptions = /ac3$/.test(codecName) ? ['-drc_scale', '0'] : [];
  const cuts = [
    ...(startFrame > 0 ? [`start_sample=${startFrame}`] : []),
    ...(endFrame === undefined ? [] : [`end_sample=${endFrame}`]),
  ];
  const cut = cuts.length === 0 ? '' : `atrim=${cuts.join(':')}`;
  const stated = isTimed ? await probeMetadata(path, fileName, format) : null;
  const begins = stated?.timeReferenceFrames ?? null;
  const bext = begins === null ? [] : ['-write_bext', '1', '-metadata', `time_reference=${begins}`];
  const stderr = await runFfmpeg(
    'ffmpeg',
    [
      ...['-nostdin', '-v', 'error', '-progress', 'pipe:1', ...decoderOptions, ...INPUT_GUARDS, '-i', inputUrl(path)],
      ...(joined ? joinedSound(joined, sampleCodec, cut) : soundOf(format, cut)),
      ...['-map_metadata', '-1', ...bext, '-c:a', sampleCodec],
      ...['-rf64', 'auto', '-f', 'wav', '-y', inputUrl(outputPath)],
    ],
    fileName,
    {
      signal,
      timeoutMs: Math.max(LEAST_TIMEOUT_MS, MOST_TIMES_SLOWER * 1000 * format.durationSeconds),
      onOutput: (text) => {
        const written = Number(/total_size=(\d+)/.exec(text)?.[1] ?? 0);
        if (written > MOST_TIMES_LARGER * bytes + SLACK_BYTES) {
          throw new AppError('decode-failed', { fileName, reason: 'it is far longer than it states' });
        }
        const micros = /out_time_us=(\d+)/.exec(text)?.[1];
        if (micros) onProgress?.(Number(micros) / 1e6);
      },
    },
  );
  if (stated?.timeCode && begins !== null) await addChunk(outputPath, 'iXML', ixmlOf(stated.timeCode.rate, begins));
  return stderr.split('\n').filter((line) => line.trim() !== '').length;
}

/** Puts a chunk at the end of a WAV. */
async function addChunk(path: string, id: string, body: Uint8Array): Promise<void> {
  const file = await open(path, 'r+');
  try {
    const head = new Uint8Array(WAV_HEAD_BYTES);
    await file.read(head, 0, head.length, 0);
    const { size } = await file.stat();
    const { patch, tail } = appendedChunk(head, size, id, body);
    await file.write(tail, 0, tail.length, size);
    await file.write(patch.bytes, 0, patch.bytes.length, patch.offset);
  } finally {
    await file.close();
  }
}

function soundOf({ track }: Probed['format'], cut: string): string[] {
  return ['-map', `0:a:${(track?.number ?? 1) - 1}`, ...(cut === '' ? [] : ['-af', cut])];
}

/** What FFmpeg calls samples that hold those of each codec. */
const SAMPLE_FORMATS: Readonly<Record<Probed['sampleCodec'], string>> = {
  pcm_s16le: 's16',
  pcm_s24le: 's32',
  pcm_s32le: 's32',
  pcm_f32le: 'flt',
};

/**
 * Tracks put together: channels stay in the order that is asked for, whatever their tracks call them, and late tracks begin late.
 * What names the channels stands last: merging takes its layouts from there.
 */
function joinedSound(joined: NonNullable<Probed['joined']>, sampleCodec: Probed['sampleCodec'], cut: string): string[] {
  // Else all become what the first of them is.
  const samples = `aformat=sample_fmts=${SAMPLE_FORMATS[sampleCodec]}`;
  const tracks = joined.map(({ number, channels, lateFrames }, i) => {
    const unnamed = `pan=${channels}c|${Array.from({ length: channels }, (_, c) => `c${c}=c${c}`).join('|')}`;
    const delayed = lateFrames > 0 ? `adelay=${lateFrames}S:all=1,` : '';
    return `[0:a:${number - 1}]${delayed}${samples},${unnamed}[t${i}]`;
  });
  const labels = joined.map((_, i) => `[t${i}]`).join('');
  const merged = `${labels}amerge=inputs=${joined.length}${cut === '' ? '' : `,${cut}`}[sound]`;
  return ['-filter_complex', [...tracks, merged].join(';'), '-map', '[sound]'];
}
