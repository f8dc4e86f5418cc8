/** A thread that a command starts to help it measure one file; it ends when nothing is left to measure. */
import { workerData } from 'node:worker_threads';
import { helpMeasuring } from './help-measuring';
import type { SegmentWorkers } from './segment-workers';

/** What the thread is started with. */
export interface HelperData {
  path: string;
  segmentWorkers: SegmentWorkers;
}

const { path, segmentWorkers } = workerData as HelperData;
await helpMeasuring(path, path, segmentWorkers);
