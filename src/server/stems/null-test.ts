import { eq } from 'drizzle-orm';
import type { StemDifference } from '@/core/lineup/stems/stems';
import { describeTreatment, gainOnly } from '@/core/treatment/treatment';
import { describeSamples } from '@/formats/audio-format';
import type { NullFile } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { nullTests } from '../db/schema';
import type { NullTestOutcome } from '../db/stored/null-test';
import { openAudio } from '../measure/audio';
import { quietly, type TaskContext } from '../tasks/runner';
import { type TaskView, taskOrNull } from '../tasks/view';
import { currentTreatment } from '../treatments/treatments';
import { comparableStems, differencesOf, offsetsOf, type Stem, stemsOf } from './stems';

/** The stems of a line-up and their mix, and what is known of how they compare. */
export interface StemsView {
  mix: StemView | null;
  /** What is done to the mix, and so to every stem that is written: each step in a few words. */
  treatment: string[];
  /** A limiter is among these. */
  isLimited: boolean;
  stems: (StemView & { differences: StemDifference[] })[];
  /** Those that are not measured yet. */
  waiting: string[];
  /** The newest test, as long as it speaks of these files; null where there is none. */
  test: (Omit<NullTestOutcome, 'mixSha256' | 'stemSha256s'> & { testedAtMs: number }) | null;
  task: TaskView | null;
}

interface StemView {
  programmeId: string;
  title: string;
  sha256: string;
  /** Name of its channel layout. */
  layout: string;
  sampleRateHz: number;
  frames: number;
  /** Such as "24-bit". */
  samplesText: string;
}

/** Throws `not-found`. */
export function viewStems(server: ServerContext, lineUpId: string): StemsView {
  const { mix, stems } = stemsOf(server, lineUpId);
  const measured = ({ source }: Stem) => server.sourceReport(source.sha256) !== undefined;
  const members = mix ? [mix, ...stems] : stems;
  const treatment = mix && (currentTreatment(server, mix.programmeId)?.treatment ?? gainOnly(0));
  return {
    mix: mix && viewOf(mix),
    treatment: treatment ? describeTreatment(treatment, mix?.source.format.sampleRateHz ?? 0) : [],
    isLimited: treatment?.limit != null,
    stems: stems.map((stem) => ({ ...viewOf(stem), differences: mix ? differencesOf(mix, stem) : [] })),
    waiting: members.filter((member) => !measured(member)).map(({ title }) => title),
    test: mix && testOf(server, lineUpId, mix, stems),
    task: taskOrNull(server.queue.latest('null-test', [lineUpId]).get(lineUpId)),
  };
}

function viewOf({ programmeId, title, source: { format, sha256 } }: Stem): StemView {
  const { sampleRateHz, frames, layout } = format;
  return { programmeId, title, sha256, layout, sampleRateHz, frames, samplesText: describeSamples(format) };
}

function testOf(server: ServerContext, lineUpId: string, mix: Stem, stems: readonly Stem[]): StemsView['test'] {
  const row = server.db.select().from(nullTests).where(eq(nullTests.lineUpId, lineUpId)).get();
  if (!row) return null;
  const { mixSha256, stemSha256s, ...outcome } = row.outcome;
  const isSame =
    mixSha256 === mix.source.sha256 &&
    stemSha256s.length === stems.length &&
    stems.every(({ source }, i) => source.sha256 === stemSha256s[i]);
  return isSame ? { ...outcome, testedAtMs: row.testedAtMs } : null;
}

/**
 * Has the stems of a line-up compared with their mix. However many ask at once, it is done once.
 *
 * @returns the id of the task
 * @throws AppError as `comparableStems`
 */
export function orderNullTest(server: ServerContext, lineUpId: string): string {
  comparableStems(server, lineUpId);
  const { id } = server.queue.enqueue('null-test', lineUpId);
  server.runner.wake();
  return id;
}

/** Compares stems with their mix. Done again after a crash, it ends in the same state. */
export async function performNullTest(server: ServerContext, lineUpId: string, context: TaskContext): Promise<void> {
  const { mix, stems } = comparableStems(server, lineUpId);
  const { offsetFrames, isTimed } = await offsetsOf(server, mix, stems);
  const [mixFile, ...stemFiles] = await openStems(server, mix, stems, offsetFrames, context);
  const reading = await server.pool.run({ kind: 'null', mix: mixFile, stems: stemFiles }, context);
  const outcome: NullTestOutcome = {
    mixSha256: mix.source.sha256,
    stemSha256s: stems.map(({ source }) => source.sha256),
    offsetFrames,
    isTimed,
    reading,
  };
  const values = { outcome, testedAtMs: server.clock.now() };
  server.db
    .insert(nullTests)
    .values({ lineUpId, ...values })
    .onConflictDoUpdate({ target: nullTests.lineUpId, set: values })
    .run();
}

/** More than this is not heard at once. */
const MOST_HEARD_SECONDS = 30;

/**
 * What the mix has in a stretch that the sum of its stems has not: planar samples, of half a minute at most.
 *
 * @throws AppError as `comparableStems`
 */
export async function readResidual(
  server: ServerContext,
  lineUpId: string,
  { startFrame, frames }: { startFrame: number; frames: number },
): Promise<{ sampleRateHz: number; channels: Float32Array[] }> {
  const { mix, stems } = comparableStems(server, lineUpId);
  const { offsetFrames } = await offsetsOf(server, mix, stems);
  const [mixFile, ...stemFiles] = await openStems(server, mix, stems, offsetFrames, quietly());
  const { sampleRateHz } = mix.source.format;
  const channels = await server.listening.run(
    {
      kind: 'residual',
      mix: mixFile,
      stems: stemFiles,
      startFrame,
      frames: Math.min(frames, MOST_HEARD_SECONDS * sampleRateHz),
    },
    quietly(),
  );
  return { sampleRateHz, channels };
}

async function openStems(
  server: ServerContext,
  mix: Stem,
  stems: readonly Stem[],
  offsetFrames: readonly number[],
  { signal }: TaskContext,
): Promise<[NullFile, ...NullFile[]]> {
  const files: NullFile[] = [];
  for (const [i, { fileName, title, source }] of [mix, ...stems].entries()) {
    const { path } = await openAudio(server, source.sha256, fileName, { ...quietly(), signal });
    files.push({ path, fileName: title, offsetFrames: i === 0 ? 0 : (offsetFrames[i - 1] ?? 0) });
  }
  return files as [NullFile, ...NullFile[]];
}
