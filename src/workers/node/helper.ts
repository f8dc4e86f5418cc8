/** A thread that a command starts to help it measure one file; it ends when nothing is left to measure. */
import { workerData } from 'node:worker_threads';
import type { Crew } from './crew';
import { helpMeasuring } from './help-measuring';

/** What the thread is started with. */
export interface HelperData {
  path: string;
  crew: Crew;
}

const { path, crew } = workerData as HelperData;
await helpMeasuring(path, path, crew);
