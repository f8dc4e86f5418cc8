/** What FFmpeg tells of a file, and of its sound tracks. */
import { stat } from 'node:fs/promises';
import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { INPUT_GUARDS, inputUrl, runFfmpeg } from './ffmpeg';

/** What is asked for is answered in a fraction of a second; somebody waits for it. */
const PROBE_TIMEOUT_MS = 10_000;
const MOST_OUTPUT = 4_000_000;
const REMEMBERED_FILES = 16;

const numeric = z.coerce.number().optional();

const tagsSchema = z.record(z.string(), z.string()).optional();

const streamSchema = z.object({
  codec_type: z.string(),
  codec_name: z.string().optional(),
  codec_tag_string: z.string().optional(),
  sample_fmt: z.string().optional(),
  sample_rate: numeric,
  channels: z.int().optional(),
  bits_per_sample: numeric,
  bits_per_raw_sample: numeric,
  bit_rate: numeric,
  duration: numeric,
  start_time: numeric,
  width: numeric,
  height: numeric,
  avg_frame_rate: z.string().optional(),
  disposition: z.record(z.string(), z.int()).optional(),
  tags: tagsSchema,
});

const chapterSchema = z.object({ start_time: numeric, end_time: numeric, tags: tagsSchema });

const outputSchema = z.object({
  streams: z.array(streamSchema).default([]),
  chapters: z.array(chapterSchema).default([]),
  format: z
    .object({
      format_name: z.string(),
      duration: numeric,
      bit_rate: numeric,
      tags: tagsSchema,
    })
    .optional(),
});

export type Stream = z.infer<typeof streamSchema>;
type Output = z.infer<typeof outputSchema>;

/** What was said of the last files, by their bytes: one that is taken in or written is asked of often, and starting FFmpeg takes longest. */
class Remembered<T> {
  readonly #answers = new Map<string, T>();

  async of(path: string, find: () => Promise<T>): Promise<T> {
    const bytes = await identityOf(path);
    const known = bytes === undefined ? undefined : this.#answers.get(bytes);
    if (known) return known;
    const answer = await find();
    // Not of one that was written meanwhile.
    if (bytes !== undefined && bytes === (await identityOf(path))) {
      this.#answers.set(bytes, answer);
      const [oldest] = this.#answers.keys();
      if (oldest !== undefined && this.#answers.size > REMEMBERED_FILES) this.#answers.delete(oldest);
    }
    return answer;
  }
}

const outputs = new Remembered<Output>();
const firstFrames = new Remembered<Map<number, number>>();

/**
 * What FFmpeg's prober says of a file: its streams, chapters and tags.
 *
 * @throws AppError `not-audio`, `ffmpeg-missing`, `took-too-long`
 */
export function ask(path: string, fileName: string): Promise<Output> {
  return outputs.of(path, () => askFfmpeg(path, fileName));
}

/** Other bytes have another: whatever writes to a file changes it, and nobody can set it. */
async function identityOf(path: string): Promise<string | undefined> {
  const found = await stat(path, { bigint: true }).catch(() => undefined);
  return found && [found.dev, found.ino, found.size, found.ctimeNs].join(' ');
}

async function askFfmpeg(path: string, fileName: string): Promise<Output> {
  const args = [
    '-v',
    'error',
    ...INPUT_GUARDS,
    '-show_streams',
    '-show_format',
    '-show_chapters',
    '-of',
    'json',
    inputUrl(path),
  ];
  let output = '';
  try {
    await runFfmpeg('ffprobe', args, fileName, {
      timeoutMs: PROBE_TIMEOUT_MS,
      onOutput: (text) => {
        output += text;
        if (output.length > MOST_OUTPUT) throw new AppError('not-audio', { fileName });
      },
    });
    return outputSchema.parse(JSON.parse(output));
  } catch (error) {
    // Whatever it says of a file that it can't open, to a person it is one thing.
    if (error instanceof AppError && error.code !== 'decode-failed') throw error;
    throw new AppError('not-audio', { fileName }, { cause: error });
  }
}

/**
 * When the first frame sounds that is decoded of a sound track, by the clock of the file: what its coder put ahead of it is left out, and
 * may be timed before 0.
 */
export async function firstFrameSeconds(path: string, fileName: string, track: number): Promise<number> {
  const found = await firstFrames.of(path, () => firstFramesOf(path, fileName));
  const known = found.get(track);
  if (known !== undefined) return known;
  // It begins later than the others, or was cut out of another file: what lies ahead of the cut is there and not heard.
  let seconds = 0;
  for (const packets of [2, 200, 20_000]) {
    const own = (await framesOf(path, fileName, `a:${track - 1}`, packets))[0];
    if (own === undefined) continue;
    seconds = own.seconds;
    break;
  }
  found.set(track, seconds);
  return seconds;
}

/** Of those tracks that begin with the file. */
async function firstFramesOf(path: string, fileName: string): Promise<Map<number, number>> {
  const { streams } = await ask(path, fileName);
  const tracks = soundStreams(streams);
  const numbers = new Map(tracks.map((own, i) => [streams.indexOf(own), i + 1]));
  const seconds = new Map<number, number>();
  for (const frame of await framesOf(path, fileName, 'a', 2 * tracks.length)) {
    const track = numbers.get(frame.stream);
    if (track !== undefined && !seconds.has(track)) seconds.set(track, frame.seconds);
  }
  return seconds;
}

/** A packet of a stream, by the clock of its file. */
export interface Packet {
  isKey: boolean;
  /** When it is shown or heard. */
  seconds: number;
  /** When it is decoded. */
  decodeSeconds: number;
}

/**
 * Packets of a stream in the order of decoding, from a key frame that lies at a time or ahead of it.
 *
 * @param stream among all of the file, from 0
 * @throws AppError as `ask`
 */
export async function packetsFrom(
  path: string,
  fileName: string,
  stream: number,
  fromSeconds: number,
  count: number,
): Promise<Packet[]> {
  const wanted = ['-select_streams', `${stream}`, '-show_entries', 'packet=pts_time,dts_time,flags'];
  const interval = `${fromSeconds.toFixed(6)}%+#${count}`;
  const rows = await rowsOf(path, fileName, [...wanted, '-read_intervals', interval]);
  return rows.flatMap(([seconds = '', decodeSeconds = '', flags = '']) =>
    Number.isNaN(Number.parseFloat(seconds))
      ? []
      : [
          {
            isKey: flags.startsWith('K'),
            seconds: Number.parseFloat(seconds),
            decodeSeconds: Number.parseFloat(decodeSeconds),
          },
        ],
  );
}

/** How many packets a stream has: all of the file is read for it. */
export async function countPackets(path: string, fileName: string, stream: number, timeoutMs: number): Promise<number> {
  const wanted = ['-select_streams', `${stream}`, '-count_packets', '-show_entries', 'stream=nb_read_packets'];
  const [[count = ''] = []] = await rowsOf(path, fileName, wanted, timeoutMs);
  return Number.parseInt(count, 10);
}

/** The frames that are decoded of the first packets of some streams. */
async function framesOf(path: string, fileName: string, streams: string, packets: number) {
  const wanted = ['-select_streams', streams, '-show_entries', 'frame=stream_index,pts_time'];
  const rows = await rowsOf(path, fileName, [...wanted, '-read_intervals', `%+#${packets}`]);
  return rows
    .map((row) => row.map(Number.parseFloat))
    .flatMap(([stream = Number.NaN, seconds = Number.NaN]) => (Number.isNaN(seconds) ? [] : [{ stream, seconds }]));
}

/** What FFmpeg's prober lists, each entry as its fields. */
async function rowsOf(
  path: string,
  fileName: string,
  wanted: readonly string[],
  timeoutMs = PROBE_TIMEOUT_MS,
): Promise<string[][]> {
  const args = ['-v', 'error', ...INPUT_GUARDS, ...wanted, '-of', 'csv=p=0', inputUrl(path)];
  let output = '';
  await runFfmpeg('ffprobe', args, fileName, {
    timeoutMs,
    onOutput: (text) => {
      output += text.slice(0, MOST_OUTPUT - output.length);
    },
  });
  return output.split('\n').map((line) => line.split(','));
}

/** The picture of a film: no cover is one. */
export function pictureStream(streams: readonly Stream[]): Stream | undefined {
  return streams.find(({ codec_type, disposition }) => codec_type === 'video' && !disposition?.attached_pic);
}

/** The sound tracks of a file, in the order in which they are numbered. */
export function soundStreams(streams: readonly Stream[]): Stream[] {
  return streams.filter(({ codec_type }) => codec_type === 'audio');
}
