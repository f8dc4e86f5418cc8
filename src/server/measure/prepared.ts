import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import type { Linking } from '@/core/limiter/link';
import type { Readings } from '@/core/loudness/readings';
import { isLevelOnly, type Preparation } from '@/core/treatment/treatment';
import { unprepared } from '@/workers/node/prepare-file';
import type { PreparedFormat, PreparedSource } from '@/workers/node/prepared-reader';
import type { PrepareJob, WorkerAnswer } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { newId } from '../ids';
import { quietly } from '../tasks/runner';
import { openAudio } from './audio';
import { layoutOf } from './measure-source';

/** A source as a treatment leaves it before the gain: measured, and ready to be read from anywhere. */
export interface PreparedProgramme {
  /** Opens its samples: they may not be there any more, or not be what they were. What was read of them stays. */
  open: () => Promise<PreparedSource>;
  /** What a person calls the source. */
  fileName: string;
  format: PreparedFormat;
  /** Name of the channel layout. */
  layout: string;
  readings: Readings;
  layoutId: string | null;
  /** Where the series and the waveform are kept. */
  analysisPath: string;
  /** Where what a limiter needs to know is kept, for channels linked in a way. */
  limitingPath: (linking: Linking) => string;
}

/** Of each source, so many ways of preparing it are kept. */
const MOST_KEPT = 12;

/** How many read a prepared programme just now, by the path of its analysis: what is read is not swept. */
const readers = new Map<string, number>();

/** Holds a prepared programme while its files are read for longer than a moment, as a render does. */
export async function whileHeld<T>({ analysisPath }: PreparedProgramme, work: () => Promise<T>): Promise<T> {
  readers.set(analysisPath, (readers.get(analysisPath) ?? 0) + 1);
  try {
    return await work();
  } finally {
    const left = (readers.get(analysisPath) ?? 1) - 1;
    if (left > 0) readers.set(analysisPath, left);
    else readers.delete(analysisPath);
  }
}

/** What is being prepared just now, by the path of its report. */
const underway = new Map<string, Promise<PreparedProgramme>>();

/** Prepares a source that has been measured, unless that was done before. Throws `not-measured`. */
export async function prepareSource(
  server: ServerContext,
  sha256: string,
  fileName: string,
  preparation: Preparation,
): Promise<PreparedProgramme> {
  const measured = server.sourceReport(sha256);
  if (!measured) throw new AppError('not-measured', { title: fileName });
  const openSource = () => openAudio(server, sha256, fileName, quietly());
  const layoutId = layoutOf(server, sha256);
  const { format, readings } = measured;
  if (isNothingFor(preparation, format.sampleRateHz)) {
    const { sampleRateHz, channels, channelMask, frames } = format;
    return {
      open: async () => unprepared((await openSource()).path),
      fileName,
      format: { sampleRateHz, channels, channelMask, frames },
      readings,
      layout: format.layout,
      layoutId,
      analysisPath: server.folder.analysis(sha256),
      limitingPath: (linking) => server.folder.limiting(sha256, layoutId, variantOf(linking)),
    };
  }
  const paths = server.folder.prepared(sha256, keyOf({ preparation, layoutId }));
  const pending = underway.get(paths.report);
  if (pending) return pending;
  const { trim, resampleHz } = preparation;
  const work = (async () => {
    const job: PrepareJob = {
      kind: 'prepare',
      path: (await openSource()).path,
      fileName,
      layoutId,
      preparation,
      resampledPath: server.folder.resampled(sha256, keyOf({ trim, resampleHz })),
      analysisPath: paths.analysis,
    };
    return prepare(server, job, paths, sha256, openSource);
  })().finally(() => underway.delete(paths.report));
  underway.set(paths.report, work);
  return work;
}

async function prepare(
  server: ServerContext,
  job: PrepareJob,
  paths: ReturnType<ServerContext['folder']['prepared']>,
  sha256: string,
  openSource: () => Promise<unknown>,
): Promise<PreparedProgramme> {
  const report = (await reportAt(paths)) ?? (await server.pool.run(job, quietly()));
  await writeReport(paths.report, report);
  await sweepOlder(server.folder.preparedFolder, sha256);
  const { source, format, layout, readings } = report;
  return {
    open: async () => {
      await openSource();
      return source;
    },
    fileName: job.fileName,
    format,
    layout,
    readings,
    layoutId: job.layoutId,
    analysisPath: paths.analysis,
    limitingPath: (linking) => paths.limiting(variantOf(linking)),
  };
}

/** What was found before, if all of it is still there. */
async function reportAt(paths: { report: string; analysis: string }): Promise<WorkerAnswer<PrepareJob> | undefined> {
  if (!existsSync(paths.report) || !existsSync(paths.analysis)) return undefined;
  const report = JSON.parse(await readFile(paths.report, 'utf8')) as WorkerAnswer<PrepareJob>;
  return existsSync(report.source.path) ? report : undefined;
}

/** Also of one that was there: what was asked for last is swept last. */
async function writeReport(path: string, report: WorkerAnswer<PrepareJob>): Promise<void> {
  const temporaryPath = `${path}.${newId()}.part`;
  await writeFile(temporaryPath, JSON.stringify(report));
  await rename(temporaryPath, path);
}

/** Keeps what was asked for last of a source, and what is being read; files that nobody's report names go too. */
async function sweepOlder(folder: string, sha256: string): Promise<void> {
  const names = (await readdir(folder)).filter((name) => name.startsWith(sha256));
  const reports = names.filter((name) => name.endsWith('.json'));
  if (reports.length <= MOST_KEPT) return;
  const aged = await Promise.all(
    reports.map(async (name) => ({ name, modifiedMs: (await stat(join(folder, name))).mtimeMs })),
  );
  aged.sort((a, b) => b.modifiedMs - a.modifiedMs);
  const isRead = (stem: string) => readers.has(join(folder, `${stem}.bin`));
  const kept = aged
    .map(({ name }) => name.slice(0, -'.json'.length))
    .filter((stem, i) => i < MOST_KEPT || isRead(stem));
  const keptSources = await Promise.all(kept.map((stem) => readFile(join(folder, `${stem}.json`), 'utf8')));
  for (const name of names) {
    const isCached = kept.some((stem) => name.startsWith(stem)) || keptSources.some((report) => report.includes(name));
    if (!isCached && !name.endsWith('.part')) await rm(join(folder, name), { force: true });
  }
}

function isNothingFor(preparation: Preparation, sampleRateHz: number): boolean {
  const resampleHz = preparation.resampleHz === sampleRateHz ? null : preparation.resampleHz;
  return isLevelOnly({ ...preparation, resampleHz });
}

function keyOf(what: unknown): string {
  return createHash('sha256').update(JSON.stringify(what)).digest('hex').slice(0, 16);
}

/** All channels together need no other name. */
function variantOf({ link, lfe, linkGroups }: Linking): string {
  return `${link === 1 ? '' : '.apart'}${lfe === 'linked' ? '' : '.lfe'}${linkGroups ? `.${linkGroups}` : ''}`;
}
