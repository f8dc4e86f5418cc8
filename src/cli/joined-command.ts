import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { type JoinedPart, type JoinedReading, type JoinedTrack, readJoined } from '@/core/lineup/joined';
import { READING_NAMES } from '@/core/loudness/reading-names';
import type { Level } from '@/core/units/decibel';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { complaint, EXIT, json, type Output } from './commands';
import { type MeasuringOptions, measure } from './measuring';
import { joinedCommandMessages as messages } from './messages';

/** Reads files as one programme, played in the order in which they are named. One that can't be read leaves no reading of the whole. */
export async function joinedCommand(
  files: readonly string[],
  gapSeconds: number,
  asJson: boolean,
  output: Output,
  options: MeasuringOptions = {},
): Promise<number> {
  const parts: JoinedPart[] = [];
  for (const file of files) {
    try {
      const { report, measurement } = await measure(file, options);
      const { sampleRateHz, frames } = report.format;
      const { truePeakDbtp } = report.readings;
      const { weightedPower } = measurement.series;
      parts.push({ weightedPower, truePeakDbtp, sampleRateHz, frames, gapSeconds });
    } catch (error) {
      output.complain(complaint(error));
    }
  }
  if (parts.length < files.length) return EXIT.unusable;
  const joined = read(parts);
  const tracks = joined.tracks.map((track, i) => ({ file: files[i] as string, ...track }));
  if (asJson)
    output.print(json({ joined: wholeJson(joined), tracks, loudest: tracks[joined.loudest ?? -1]?.file ?? null }));
  else for (const line of lines(joined, tracks)) output.print(line);
  return EXIT.ok;
}

function read(parts: readonly JoinedPart[]): JoinedReading {
  try {
    return readJoined(parts);
  } catch (error) {
    if (error instanceof RangeError) throw new AppError('usage', { reason: error.message }, { cause: error });
    throw error;
  }
}

function wholeJson({
  durationSeconds,
  integratedLufs,
  range,
  maxMomentaryLufs,
  maxShortTermLufs,
  truePeakDbtp,
}: JoinedReading) {
  return {
    durationSeconds,
    integratedLufs,
    loudnessRangeLu: range?.rangeLu ?? null,
    maxMomentaryLufs,
    maxShortTermLufs,
    truePeakDbtp,
  };
}

function lines(joined: JoinedReading, tracks: readonly (JoinedTrack & { file: string })[]): string[] {
  const whole = wholeJson(joined);
  const row = (key: keyof typeof READING_NAMES, value: Level) =>
    `  ${READING_NAMES[key].name.padEnd(18)}${formatLevel(value, READING_NAMES[key].unit)}`;
  return [
    `${messages.together(tracks.length)} · ${formatTime(whole.durationSeconds, { milliseconds: true })}`,
    row('integratedLufs', whole.integratedLufs),
    row('loudnessRangeLu', whole.loudnessRangeLu),
    row('maxMomentaryLufs', whole.maxMomentaryLufs),
    row('maxShortTermLufs', whole.maxShortTermLufs),
    row('truePeakDbtp', whole.truePeakDbtp),
    ...tracks.map(({ file, startSeconds, integratedLufs, fromWholeLu, truePeakDbtp }, i) => {
      const parts = [
        formatTime(startSeconds, { milliseconds: true }),
        formatLevel(integratedLufs, 'LUFS'),
        fromWholeLu === null ? messages.noLoudness : messages.fromWhole(formatNumber(fromWholeLu, 1, { plus: true })),
        formatLevel(truePeakDbtp, 'dBTP'),
        ...(i === joined.loudest ? [messages.loudest] : []),
      ];
      return `  ${messages.track(i + 1, basename(file))} · ${parts.join(' · ')}`;
    }),
  ];
}
