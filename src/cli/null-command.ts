/** `opsimeter null`: whether stems add up to their mix, and what is left where they don't. */
import { basename } from 'node:path';
import { faultWords } from '@/core/lineup/null/fault-words';
import type { NullReading } from '@/core/lineup/null/null-test';
import { formatGain, formatLevel, formatTime } from '@/core/units/format';
import { nullFiles } from '@/workers/node/null-files';
import type { Audio } from './audio';
import { EXIT, json, type Output } from './commands';
import { audioOffsets, withAudios } from './measuring';
import { nullCommandMessages as messages } from './messages';

/** Where files are laid against each other: at the time that they state, or at their first frames. */
type Alignment = 'time-reference' | 'start';

export async function nullCommand(
  files: readonly [string, string, ...string[]],
  { asJson, fromStart }: { asJson: boolean; fromStart: boolean },
  output: Output,
): Promise<number> {
  return withAudios(files, async (audios) => {
    const { sampleRateHz } = (audios[0] as Audio).header.format;
    const offsets = fromStart ? null : await audioOffsets(audios);
    const alignedBy: Alignment = offsets ? 'time-reference' : 'start';
    const [mix, ...stems] = audios.map(({ path, file }, i) => ({
      path,
      fileName: basename(file),
      offsetFrames: offsets?.[i] ?? 0,
    }));
    if (!mix) return EXIT.unusable;
    const reading = await nullFiles(mix, stems);
    if (asJson) output.print(json(readingJson(files, reading, alignedBy, sampleRateHz)));
    else for (const line of lines(files, reading, alignedBy, sampleRateHz)) output.print(line);
    return reading.nulls ? EXIT.ok : EXIT.misses;
  });
}

function readingJson(
  files: readonly string[],
  { stems, faults, places, ...reading }: NullReading,
  alignedBy: Alignment,
  sampleRateHz: number,
) {
  const stemFiles = files.slice(1);
  const names = stemFiles.map((file) => basename(file));
  return {
    mix: files[0],
    ...reading,
    alignedBy,
    sampleRateHz,
    stems: stems.map(({ name: _, ...stem }, i) => ({ file: stemFiles[i], ...stem })),
    places,
    faults: faults.map((fault) => ({
      ...fault,
      ...('stem' in fault ? { stem: stemFiles[fault.stem] } : {}),
      ...('twin' in fault ? { twin: stemFiles[fault.twin] } : {}),
      message: faultWords(fault, names, sampleRateHz),
    })),
  };
}

function lines(files: readonly string[], reading: NullReading, alignedBy: Alignment, sampleRateHz: number): string[] {
  const { nulls, residualDb, greatestResidualDb, mixDb, stems, faults, places } = reading;
  const names = files.slice(1).map((file) => basename(file));
  const time = (frame: number) => formatTime(frame / sampleRateHz, { milliseconds: true });
  const level = (db: number | null) => formatLevel(db, 'dBFS');
  return [
    messages.heading(basename(files[0] as string), stems.length, alignedBy === 'start'),
    nulls
      ? messages.nulls(greatestResidualDb === null ? null : level(greatestResidualDb))
      : messages.leaves(level(residualDb), level(greatestResidualDb), level(mixDb)),
    ...stems.map(({ name, gainDb, delayFrames, isInverted }) =>
      messages.stem(name, gainDb === null ? null : formatGain(gainDb, 2), delayFrames, isInverted),
    ),
    ...places.map(({ startFrame, endFrame, residualDb: own }) =>
      messages.place(time(startFrame), time(endFrame), level(own)),
    ),
    ...faults.map((fault) =>
      messages.fault(time(fault.startFrame), time(fault.endFrame), faultWords(fault, names, sampleRateHz)),
    ),
  ];
}
