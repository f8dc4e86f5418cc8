import type { MessagePort } from 'node:worker_threads';
import { toErrorRecord } from '@/core/errors/app-error';
import type { MeasureJob, Progress, RenderJob, WorkerAnswer, WorkerJob, WorkerOutcome } from '../protocol';
import { writeAnalysis } from './analysis-file';
import { measureFile } from './measure-file';
import { renderFile } from './render-file';

type Report = (progress: Progress) => void;

/** The pool calls this in a thread of its own; cancelling ends the thread. Progress goes through the port. */
export default async function run({
  job,
  port,
}: {
  job: WorkerJob;
  port: MessagePort;
}): Promise<WorkerOutcome<WorkerJob>> {
  const onProgress: Report = (progress) => port.postMessage(progress);
  try {
    return { answer: await perform(job, onProgress) };
  } catch (error) {
    return { error: toErrorRecord(error) };
  } finally {
    port.close();
  }
}

function perform(job: WorkerJob, onProgress: Report): Promise<WorkerAnswer<WorkerJob>> {
  switch (job.kind) {
    case 'measure':
      return measure(job, onProgress);
    case 'render':
      return render(job, onProgress);
  }
}

async function measure({ path, fileName, analysisPath }: MeasureJob, onProgress: Report) {
  const { report, measurement } = await measureFile(path, { fileName, waveform: true, onProgress });
  await writeAnalysis(analysisPath, measurement);
  return report;
}

function render({ path, outputPath, fileName, gainDb }: RenderJob, onProgress: Report) {
  return renderFile(path, outputPath, { gainDb, fileName, onProgress });
}
