/** Several sound tracks of one file, and what they are put together to: broadcast and location files have a track for each channel. */
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { checkMeasurable } from '@/formats/pcm-header';
import { ask, firstFrameSeconds, soundStreams } from './ask-ffmpeg';
import { type Probed, probe } from './probe';

/** From the least to what holds the most: samples of several tracks go into the one that holds them all. */
const HOLDING: readonly Probed['sampleCodec'][] = ['pcm_s16le', 'pcm_s24le', 'pcm_s32le', 'pcm_f32le'];

/**
 * Describes tracks of a file as one sound: the channels of the first, then those of the next. It ends with the shortest of them.
 *
 * @param numbers of the tracks, counted from 1, in the order that their channels are wanted in
 * @throws AppError `no-such-track`, `tracks-differ` where their sample rates do, or what `probe` throws
 */
export async function probeTracks(path: string, fileName: string, numbers: readonly number[]): Promise<Probed> {
  const { streams } = await ask(path, fileName);
  const of = soundStreams(streams).length;
  const missing = of > 0 && numbers.find((number) => number > of);
  if (missing) throw new AppError('no-such-track', { fileName, track: missing, of });
  const all: Probed[] = [];
  for (const number of numbers) all.push(await probe(path, fileName, number));
  const [first, ...others] = all;
  if (!first) throw new AppError('no-sound-track', { fileName });
  if (others.length === 0) return first;
  const { sampleRateHz } = first.format;
  const other = others.find(({ format }) => format.sampleRateHz !== sampleRateHz);
  if (other) {
    const ratesHz: [number, number] = [sampleRateHz, other.format.sampleRateHz];
    throw new AppError('tracks-differ', { fileName, ratesHz });
  }
  const startsSeconds: number[] = [];
  for (const number of numbers) startsSeconds.push(await firstFrameSeconds(path, fileName, number));
  const channels = all.reduce((sum, { format }) => sum + format.channels, 0);
  checkMeasurable({ channels, sampleRateHz }, fileName);
  const lateFrames = startsSeconds.map((own) => Math.round((own - Math.min(...startsSeconds)) * sampleRateHz));
  const frames = Math.min(...all.map(({ format }, i) => format.frames + (lateFrames[i] ?? 0)));
  const holding = all.toSorted((a, b) => HOLDING.indexOf(b.sampleCodec) - HOLDING.indexOf(a.sampleCodec))[0] ?? first;
  return {
    ...holding,
    format: {
      ...holding.format,
      channels,
      layout: channelLayout(channels, 0).name,
      frames,
      durationSeconds: frames / sampleRateHz,
      track: first.format.track && { ...first.format.track, joined: [...numbers] },
    },
    joined: all.map(({ format }, i) => ({
      number: numbers[i] ?? 1,
      channels: format.channels,
      lateFrames: lateFrames[i] ?? 0,
    })),
  };
}
