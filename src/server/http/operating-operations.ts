/** What can be asked of this app as a thing that runs: how it is, what space it takes, and jobs that were deleted. */
import * as z from 'zod';
import { STORE_KINDS } from '../housekeeping/stores';
import { operation } from './operation';

const check = z.looseObject({ isWell: z.boolean() });

export const OPERATING_OPERATIONS = {
  deleteJob: operation({
    method: 'DELETE',
    path: '/api/jobs/{jobId}',
    tag: 'Jobs',
    status: 204,
    summary: 'Deletes a job. It can be restored for a week; then its rows and files go for good.',
  }),
  listDeletedJobs: operation({
    method: 'GET',
    path: '/api/deleted-jobs',
    tag: 'Jobs',
    summary: 'Jobs that were deleted and can be restored, the last one first.',
    answer: z.array(z.object({ id: z.string(), name: z.string(), deletedAtMs: z.number(), goneAtMs: z.number() })),
  }),
  restoreJob: operation({
    method: 'POST',
    path: '/api/deleted-jobs/{jobId}/restore',
    tag: 'Jobs',
    status: 204,
    summary: 'Restores a job that was deleted.',
  }),
  viewStorage: operation({
    method: 'GET',
    path: '/api/storage',
    tag: 'Operating',
    summary: 'What takes space in the data folder, and how much of it can be freed.',
    answer: z.object({
      freeBytes: z.number(),
      stores: z.array(
        z.object({ kind: z.enum(STORE_KINDS), files: z.int(), bytes: z.number(), freeableBytes: z.number() }),
      ),
    }),
  }),
  freeStorage: operation({
    method: 'POST',
    path: '/api/storage/free',
    tag: 'Operating',
    summary: 'Frees what can be made again, or nobody needs, of some parts of the data folder.',
    body: z.object({ kinds: z.array(z.enum(STORE_KINDS)).min(1).max(STORE_KINDS.length) }),
    answer: z.object({ freedBytes: z.number() }),
  }),
  health: operation({
    method: 'GET',
    path: '/api/health',
    tag: 'Operating',
    summary: 'How this app is: 200 where everything can be saved, 503 where not.',
    answer: z.object({
      status: z.enum(['ok', 'degraded', 'failing']),
      checks: z.object({ database: check, dataFolder: check, space: check, ffmpeg: check, queue: check }),
    }),
  }),
  metrics: operation({
    method: 'GET',
    path: '/api/metrics',
    tag: 'Operating',
    summary: 'Figures of this app, in the text format of Prometheus.',
    answer: 'metrics',
  }),
};
