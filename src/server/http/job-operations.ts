/** Jobs: their list, programmes, import and export. */
import * as z from 'zod';
import { jobAnswer, jobsAnswer, standingAnswer } from './answers';
import { operation } from './operation';
import { id } from './query';

export const JOB_OPERATIONS = {
  listJobs: operation({
    method: 'GET',
    path: '/api/jobs',
    tag: 'Jobs',
    summary: 'Every job, newest first, with how far it is.',
    answer: jobsAnswer,
  }),
  createJob: operation({
    method: 'POST',
    path: '/api/jobs',
    tag: 'Jobs',
    summary: 'Starts a job.',
    status: 201,
    body: z.object({ name: z.string().trim().min(1).max(120) }),
    answer: z.object({ jobId: z.string() }),
  }),
  jobStanding: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/standing',
    tag: 'Jobs',
    summary: 'How many of a job’s programmes are inside its spec as they are treated, and how many are not.',
    answer: standingAnswer,
  }),
  viewJob: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}',
    tag: 'Jobs',
    summary: 'A job with its programmes: readings, findings, treatment, deliveries.',
    answer: jobAnswer,
  }),
  changeJob: operation({
    method: 'PATCH',
    path: '/api/jobs/{jobId}',
    tag: 'Jobs',
    summary: 'Saves the spec that a job’s pages judge by; null for the usual one.',
    status: 204,
    body: z.object({ specId: id.nullable() }),
  }),
  importJob: operation({
    method: 'PUT',
    path: '/api/jobs/import',
    tag: 'Jobs',
    status: 201,
    summary: 'Brings in a job from the ZIP that is the body.',
    query: z.object({ name: z.string().max(1000).default('job.zip') }),
    body: 'bytes',
    answer: z.object({ jobId: z.string() }),
  }),
  readingsCsv: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/readings',
    tag: 'Jobs',
    summary: 'The readings of every source of a job, as they came in, as CSV.',
    answer: 'csv',
  }),
  exportJob: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/export',
    tag: 'Jobs',
    summary: 'The job as one ZIP, streamed as it is made.',
    answer: 'zip',
  }),
};
