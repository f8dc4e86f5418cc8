/** What can be asked of many programmes at once over HTTP. */
import * as z from 'zod';
import { batchWish } from '@/core/batch/batch';
import { batchAnswer, batchesAnswer } from './answers';
import { operation } from './operation';
import { id } from './query';

export const BATCH_OPERATIONS = {
  createBatch: operation({
    method: 'POST',
    path: '/api/jobs/{jobId}/batches',
    tag: 'Many at once',
    status: 202,
    summary:
      'Asks something of many programmes: to meet a spec, to be delivered, a review copy, or single steps or tags. A task does it.',
    body: z.object({ programmeIds: z.array(id).min(1).max(2000), wish: batchWish }),
    answer: z.object({ batchId: z.string() }),
  }),
  listBatches: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/batches',
    tag: 'Many at once',
    summary: 'What was asked of many programmes of a job, the newest first.',
    answer: batchesAnswer,
  }),
  readBatch: operation({
    method: 'GET',
    path: '/api/batches/{batchId}',
    tag: 'Many at once',
    summary: 'What was asked of many programmes, and what has come of it for each.',
    answer: batchAnswer,
  }),
  reviewFile: operation({
    method: 'GET',
    path: '/api/batches/{batchId}/file',
    tag: 'Many at once',
    summary: 'A review copy: part N of those of a batch.',
    query: z.object({ part: z.coerce.number().int().min(0).max(10_000).default(0) }),
    answer: 'audio',
  }),
  reviewZip: operation({
    method: 'GET',
    path: '/api/batches/{batchId}/zip',
    tag: 'Many at once',
    summary: 'All review copies of a batch as one ZIP.',
    answer: 'zip',
  }),
};
