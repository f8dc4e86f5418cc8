/** `opsimeter live`: a line that is measured while it sounds, and recorded where that is asked. */
import type { LineSecond } from '@/core/live/line-second';
import { READING_NAMES } from '@/core/loudness/reading-names';
import { SHORT_TERM_BINS } from '@/core/loudness/series';
import type { Level } from '@/core/units/decibel';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { BINS_PER_SECOND } from '@/core/units/frames';
import { type Heard, listen } from '@/workers/node/listen';
import { complaint, EXIT, type Output } from './commands';
import { liveCommandMessages as messages } from './messages';

/** Before so long there is no short-term loudness. */
const SHORT_TERM_SECONDS = SHORT_TERM_BINS / BINS_PER_SECOND;

/** What is read of a line, as of a file. */
const SHOWN = ['integratedLufs', 'loudnessRangeLu', 'maxMomentaryLufs', 'maxShortTermLufs', 'truePeakDbtp'] as const;

interface LiveOptions {
  asJson: boolean;
  isFloat: boolean;
  /** Null for as long as it sounds. */
  seconds: number | null;
  record: string | undefined;
}

/** Ends well where the line ends, or is ended by hand; a lost connection, or a failed recording, does not. */
export async function liveCommand(
  input: string,
  output: Output,
  { asJson, isFloat, seconds, record }: LiveOptions,
): Promise<number> {
  let rateHz = Number.NaN;
  const ending = new AbortController();
  const end = () => ending.abort();
  const signals = ['SIGINT', 'SIGTERM', 'SIGHUP'] as const;
  for (const signal of signals) process.once(signal, end);
  try {
    const heard = await listen(input, {
      seconds: seconds ?? undefined,
      record: record === undefined ? undefined : { path: record, bitDepth: isFloat ? 32 : 24 },
      signal: ending.signal,
      onOpen: ({ layout, sampleRateHz }) => {
        rateHz = sampleRateHz;
        if (asJson) output.print(JSON.stringify({ line: input, layout, sampleRateHz }));
        else output.print(messages.heading(input, `${layout}, ${sampleRateHz} Hz`));
      },
      onGap: ({ startFrame, frames }) => {
        const at = formatTime(startFrame / rateHz, { milliseconds: true });
        output.print(asJson ? JSON.stringify({ gap: { startFrame, frames } }) : messages.gap(at, frames));
      },
      onSecond: (second) => output.print(asJson ? JSON.stringify(second) : secondLine(second)),
    });
    for (const line of asJson ? [JSON.stringify(endJson(heard))] : endLines(heard)) output.print(line);
    const failures = [heard.lost, heard.recording?.failure].filter((failure) => failure !== undefined);
    for (const failure of failures) output.complain(complaint(failure));
    return failures.length === 0 ? EXIT.ok : EXIT.unusable;
  } finally {
    for (const signal of signals) process.off(signal, end);
  }
}

function number(level: Level): string {
  return level === null ? '−∞' : formatNumber(level);
}

function secondLine({ second, ...read }: LineSecond & { second: number }): string {
  return messages.second(
    formatTime(second),
    number(read.momentaryLufs),
    second < SHORT_TERM_SECONDS ? '–' : number(read.shortTermLufs),
    number(read.integratedLufs),
    read.loudnessRangeLu === null ? '–' : formatNumber(read.loudnessRangeLu),
    number(read.truePeakDbtp),
  );
}

function endJson({ frames, lostFrames, clockSeconds, format, readings, lost, recording }: Heard) {
  const { peaks, seconds: _, momentaryLufs: _now, shortTermLufs: _last, ...own } = readings;
  return {
    frames,
    seconds: frames / format.sampleRateHz,
    clockSeconds,
    lostFrames,
    readings: { ...own, truePeaksDbtp: peaks.map(({ maxDbtp }) => maxDbtp) },
    ...(lost ? { lost: lost.toJSON() } : {}),
    ...(recording ? { recording: { ...recording, failure: recording.failure?.toJSON() } } : {}),
  };
}

function endLines({ frames, lostFrames, format, readings, recording }: Heard): string[] {
  const time = (own: number) => formatTime(own / format.sampleRateHz, { milliseconds: true });
  return [
    messages.end(time(frames)),
    ...SHOWN.map((key) => {
      const { name, unit } = READING_NAMES[key];
      return `  ${name.padEnd(18)}${formatLevel(readings[key], unit)}`;
    }),
    ...(lostFrames > 0 ? [messages.lost(lostFrames)] : []),
    ...(recording ? [messages.recorded(recording.path, time(recording.frames))] : []),
    ...(recording && recording.clippedSamples > 0 ? [messages.clipped(recording.clippedSamples)] : []),
  ];
}
