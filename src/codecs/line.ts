/** A line: sound that comes in real time, from an address or from a file that is played. FFmpeg opens it, in its own process. */
import { existsSync } from 'node:fs';
import { AppError } from '@/core/errors/app-error';
import { STREAM_SCHEMES } from '@/core/live/line';
import { bytesSource } from '@/formats/bytes';
import type { SampleLayout } from '@/formats/pcm-header';
import { unpack } from '@/formats/samples';
import { findWavSamples } from '@/formats/wav/header';
import { DEMUXERS, inputUrl, isFfmpegThere, type RunningFfmpeg, startFfmpeg } from './ffmpeg';

/** What a stream may be made of, beside what a file may be. */
const STREAM_DEMUXERS = [...DEMUXERS, 'wav', 'aiff', 'hls', 'mpegts', 'rtp'];
/** How long FFmpeg looks at a stream before it says what it is, in µs. */
const LOOKED_AT_US = 1_000_000;
/** For so long SRT waits for packets that were lost to be sent again, unless the address says otherwise; its own 120 ms are too few where the host is busy or far. */
const SRT_LATENCY_US = 1_000_000;
/** A line from which nothing comes for so long is lost; before its first sound, one that can't be opened. */
const LOST_AFTER_MS = 10_000;
/** More than any head that FFmpeg writes ahead of the samples. */
const MOST_HEAD_BYTES = 4096;
/** Shorter gaps between the times of packets are their rounding. */
const LEAST_GAP_SECONDS = 0.001;
/**
 * Where a packet of sound stands: where the one before ends, or later by what is missing. Times that go back are no reason to drop sound:
 * the first packets of a stream may have the times of each other.
 */
const PLACED = [
  'st(1,PTS-STARTPTS)',
  `st(2,if(gt(ld(1)-ld(0),${LEAST_GAP_SECONDS}/TB),ld(1),ld(0)))`,
  'st(0,ld(2)+NB_SAMPLES/SR/TB)',
  'ld(2)',
].join(';');
/** Says at which frame each packet stands, and fills what is missing between two of them. */
const FILTERS = `asetpts='${PLACED}',ashowinfo,aresample=async=1:min_hard_comp=${LEAST_GAP_SECONDS}`;
/** What FFmpeg says of a connection that was lost. */
const CONNECTION_LOST = /ends prematurely|input\/output error|connection|timed out/i;
const FLOAT = { type: 'f32', isBigEndian: false } as const;

/** Planar frames as they come; the arrays are used again for the next. */
export interface LinePart {
  channels: readonly Float32Array[];
  frames: number;
}

/** Frames that were sent and never came: silence stands in their place, so that everything after them is where it belongs. */
export interface LineGap {
  startFrame: number;
  frames: number;
}

export interface Line {
  format: Pick<SampleLayout, 'sampleRateHz' | 'channels' | 'channelMask'>;
  /** Ends where the line ends, or is ended. Throws `line-lost`. */
  parts: AsyncIterable<LinePart>;
  end(): void;
}

/** Whether a text is the address of a line, and no name of a file. */
function isLineAddress(input: string): boolean {
  return STREAM_SCHEMES.some((scheme) => input.startsWith(`${scheme}://`));
}

/**
 * Opens a line and waits for what it says of itself.
 *
 * @param input an address that begins with one of STREAM_SCHEMES, or the path of a file, which is played in real time
 * @param onGap called for what was lost on its way, about when it is reached
 * @param signal ends it, also while it waits for the first of it
 * @throws AppError `line-not-opened`, `file-missing`
 */
export async function openLine(input: string, onGap: (gap: LineGap) => void, signal?: AbortSignal): Promise<Line> {
  const isAddress = isLineAddress(input);
  if (!isAddress && !existsSync(input)) throw new AppError('file-missing', { fileName: input });
  let isOpen = false;
  const fail = (reason: string) => new AppError(isOpen ? 'line-lost' : 'line-not-opened', { line: input, reason });
  if (!(await isFfmpegThere()))
    throw fail('FFmpeg, which opens every line, is neither on the PATH nor named in OPSIMETER_FFMPEG');
  const running = startFfmpeg(
    [
      ...['-drc_scale', '0'],
      ...(isAddress ? addressOptions(input) : ['-re', '-protocol_whitelist', 'file']),
      ...['-format_whitelist', STREAM_DEMUXERS.join(','), '-i', isAddress ? input : inputUrl(input)],
      ...['-map', '0:a:0', '-map_metadata', '-1', '-af', FILTERS, '-c:a', 'pcm_f32le', '-flush_packets', '1'],
      ...['-f', 'wav', 'pipe:1'],
    ],
    gapFinder(onGap),
  );
  signal?.addEventListener('abort', () => running.end(), { once: true });
  const bytes = watched(running, fail);
  const head = await readHead(bytes, input, fail).catch((error) => {
    running.end();
    throw error;
  });
  isOpen = true;
  return { format: head.layout, parts: partsOf(head, bytes), end: () => running.end() };
}

/** Reads of what FFmpeg remarks on each packet of sound where the next should have begun, and did not. */
function gapFinder(onGap: (gap: LineGap) => void): (line: string) => void {
  let first: number | undefined;
  let expected: number | undefined;
  return (line) => {
    const [, at, rateHz, count] = /\bpts:(\d+) .*\brate:(\d+) .*\bnb_samples:(\d+)/.exec(line)?.map(Number) ?? [];
    if (at === undefined || rateHz === undefined || count === undefined) return;
    first ??= at;
    if (expected !== undefined && at - expected > LEAST_GAP_SECONDS * rateHz) {
      onGap({ startFrame: expected - first, frames: at - expected });
    }
    expected = at + count;
  };
}

function addressOptions(address: string): string[] {
  const scheme = address.slice(0, address.indexOf('://'));
  const protocols = scheme.startsWith('http') ? 'http,https,tcp,tls,crypto' : 'udp,rtp,srt';
  const own = scheme === 'srt' ? ['-rcvlatency', String(SRT_LATENCY_US)] : [];
  return ['-protocol_whitelist', protocols, '-analyzeduration', String(LOOKED_AT_US), ...own];
}

interface Head {
  layout: SampleLayout;
  /** What came of the samples with it. */
  rest: Uint8Array;
}

type Fail = (reason: string) => AppError;

async function readHead(bytes: AsyncGenerator<Uint8Array>, line: string, fail: Fail): Promise<Head> {
  let head = new Uint8Array(0);
  for (;;) {
    const { value, done } = await bytes.next();
    if (done) throw fail('there is no sound in it');
    head = joined(head, value);
    const found = await samplesIn(head, line);
    if (found) return found;
    if (head.length > MOST_HEAD_BYTES) throw fail('FFmpeg says nothing of its format');
  }
}

async function samplesIn(head: Uint8Array, line: string): Promise<Head | undefined> {
  try {
    const { layout, dataOffset } = await findWavSamples(bytesSource(head), line);
    return { layout, rest: head.subarray(dataOffset) };
  } catch (error) {
    // Not all of it is there yet.
    if (error instanceof AppError && ['not-audio', 'no-audio', 'header-damaged', 'empty-file'].includes(error.code)) {
      return undefined;
    }
    throw error;
  }
}

async function* partsOf({ layout, rest }: Head, bytes: AsyncGenerator<Uint8Array>): AsyncGenerator<LinePart> {
  const frameBytes = 4 * layout.channels;
  let channels: Float32Array[] = [];
  let held = rest;
  const take = (): LinePart => {
    const frames = Math.floor(held.length / frameBytes);
    if (frames > (channels[0]?.length ?? 0)) {
      channels = Array.from({ length: layout.channels }, () => new Float32Array(frames));
    }
    unpack(held, frames, FLOAT, channels);
    held = held.slice(frames * frameBytes);
    return { channels, frames };
  };
  if (held.length >= frameBytes) yield take();
  for await (const more of bytes) {
    held = held.length === 0 ? more : joined(held, more);
    if (held.length >= frameBytes) yield take();
  }
}

/** The output of a process, until it ends; what stays silent for too long is lost. */
async function* watched(running: RunningFfmpeg, fail: Fail): AsyncGenerator<Uint8Array> {
  const output = running.output[Symbol.asyncIterator]();
  let isLost = false;
  for (;;) {
    const timer = setTimeout(() => {
      isLost = true;
      running.end();
    }, LOST_AFTER_MS);
    const { value, done } = await output.next();
    clearTimeout(timer);
    if (isLost) throw fail(`nothing came from it for ${LOST_AFTER_MS / 1000} s`);
    if (done) break;
    yield value;
  }
  const { isWell, lastWords } = await running.ended;
  // A lost connection is no failure to FFmpeg, but said.
  if (!isWell || CONNECTION_LOST.test(lastWords)) throw fail(lastWords || 'FFmpeg gave no reason');
}

function joined(one: Uint8Array, other: Uint8Array): Uint8Array<ArrayBuffer> {
  const both = new Uint8Array(one.length + other.length);
  both.set(one);
  both.set(other, one.length);
  return both;
}
