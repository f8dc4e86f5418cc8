import { renameSync } from 'node:fs';
import { type MessagePort, threadId } from 'node:worker_threads';
import { toErrorRecord } from '@/core/errors/app-error';
import type { MeasureJob, PrepareJob, Progress, WorkerAnswer, WorkerJob, WorkerOutcome } from '../protocol';
import { alignPassFile } from './align-pass';
import { AnalysisWriter } from './analysis-file';
import { auditionReduction } from './audition-reduction';
import { bandLevels } from './band-levels';
import { forecastFile } from './forecast-file';
import { hashFile } from './hash-file';
import { helpMeasuring } from './help-measuring';
import { joinParts } from './join-parts';
import { measureFile } from './measure-file';
import { measurePrepared } from './measure-prepared';
import { nullFiles, residualStretch } from './null-files';
import { resampleKept, toneIn } from './prepare-file';
import { openAdm, renderAdm } from './render-adm';
import { renderFile, renderPrepared } from './render-file';
import { renderStretch } from './render-stretch';
import type { SegmentWorkers } from './segment-workers';

type Report = (progress: Progress) => void;

/** What the pool sends to a thread. */
export interface WorkerOrder {
  job: WorkerJob;
  /** Progress goes through it. */
  port: MessagePort;
  /** The counter that threads which measure one file share, and ports to each other. */
  segmentWorkers: SegmentWorkers;
}

/** The pool calls this in a thread of its own; cancelling ends the thread. */
export default async function run({ job, port, segmentWorkers }: WorkerOrder): Promise<WorkerOutcome<WorkerJob>> {
  try {
    return { answer: await perform(job, (progress) => port.postMessage(progress), segmentWorkers) };
  } catch (error) {
    return { error: toErrorRecord(error) };
  } finally {
    port.close();
  }
}

async function perform(
  job: WorkerJob,
  onProgress: Report,
  segmentWorkers: SegmentWorkers,
): Promise<WorkerAnswer<WorkerJob>> {
  switch (job.kind) {
    case 'measure':
      return measure(job, onProgress, segmentWorkers);
    case 'help':
      await helpMeasuring(job.path, job.fileName, segmentWorkers);
      return undefined;
    case 'limit':
      return forecastFile(job, onProgress);
    case 'prepare':
      return prepare(job, onProgress);
    case 'reduction':
      return auditionReduction(job);
    case 'stretch':
      return renderStretch(job);
    case 'bands':
      return bandLevels(job);
    case 'join':
      await joinParts(job.parts, job.frames, job.outputPath, { onProgress });
      return undefined;
    case 'null':
      return nullFiles(job.mix, job.stems, { onProgress, toleranceDb: job.toleranceDb });
    case 'residual':
      return residualStretch(job.mix, job.stems, job);
    case 'align':
      return alignPassFile(job, job.outputPath, { onProgress });
    case 'render-adm': {
      const adm = await openAdm(job.path, job.fileName);
      await renderAdm(job.path, job.renderings, adm, { fileName: job.fileName, onProgress });
      return undefined;
    }
    case 'tone':
      return toneIn(job.path, job.steps, job.fileName);
    case 'render':
      return typeof job.source === 'string'
        ? renderFile(job.source, job.outputPath, { ...job, onProgress })
        : renderPrepared(job.source, job.outputPath, { ...job, onProgress });
  }
}

/** Measures what a treatment makes of a source before its gain; what has to be resampled is kept, to be heard. */
async function prepare(job: PrepareJob, onProgress: Report) {
  const { path, resampledPath, preparation, analysisPath } = job;
  const options = { ...job, onProgress };
  const temporaryPath = `${resampledPath}.${process.pid}.${threadId}.part`;
  const resampled = await resampleKept(path, temporaryPath, preparation, options);
  if (resampled.path === temporaryPath) renameSync(temporaryPath, resampledPath);
  const source = resampled.path === temporaryPath ? { ...resampled, path: resampledPath } : resampled;
  const report = await measurePrepared(source, analysisPath, options);
  return { ...report, source: { ...source, facts: report.facts } };
}

async function measure(job: MeasureJob, onProgress: Report, segmentWorkers: SegmentWorkers) {
  const { path, fileName, analysisPath } = job;
  let analysis: AnalysisWriter | undefined;
  try {
    const { report, measurement } = await measureFile(path, {
      fileName,
      layoutId: job.layoutId ?? undefined,
      origin: job.origin ?? undefined,
      treatedBefore: job.treatedBefore ?? undefined,
      segmentWorkers,
      onProgress,
      onHeader: ({ format }) => {
        if (analysisPath) analysis = new AnalysisWriter(analysisPath, format);
      },
      onSegment: (segment) => analysis?.add(segment),
    });
    analysis?.finish(measurement.series);
    return { ...report, sha256: job.sha256 ?? (await hashFile(path)) };
  } catch (error) {
    analysis?.abandon();
    throw error;
  }
}
