/** Programmes: taken in, looked at, set. */
import * as z from 'zod';
import { typedTimeCode } from '@/core/delivery/start-time-code';
import { tagsSchema } from '@/core/file-formats/tags';
import { readingOldNames } from '@/core/schema/old-names';
import { someOf } from '@/core/schema/some-of';
import { OLD_STEP_NAMES, treatmentFields } from '@/core/treatment/treatment';
import { takeInListing } from '../jobs/take-in-list';
import { trackLists } from '../take-in/tracks';
import { partAnswer, programmeAnswer, programmeItemAnswer, takeInRowAnswer, treatmentAnswer } from './answers';
import { operation } from './operation';
import { id, windowQuery } from './query';

const named = z.object({ name: z.string().min(1).max(1000) });

export const PROGRAMME_OPERATIONS = {
  listProgrammes: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/programmes',
    tag: 'Programmes',
    summary: 'A part of a job’s programmes, each at a glance as its treatment leaves it, against one spec.',
    query: z.object({ spec: id, ...windowQuery }),
    answer: partAnswer(programmeItemAnswer),
  }),
  listTakenIn: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/take-in',
    tag: 'Programmes',
    summary: 'A part of a job’s programmes as they came: file, misses against one spec, findings.',
    query: takeInListing.extend({ spec: id, ...windowQuery }),
    answer: partAnswer(takeInRowAnswer),
  }),
  viewProgramme: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}',
    tag: 'Programmes',
    summary: 'A programme: readings, findings, treatment, versions, markers, deliveries.',
    answer: programmeAnswer,
  }),
  takeIn: operation({
    method: 'PUT',
    path: '/api/jobs/{jobId}/sources',
    tag: 'Programmes',
    status: 201,
    summary: 'Takes in the body as one file; 200 where the job has it already. It is measured by itself.',
    query: named,
    body: 'bytes',
    answer: z.looseObject({ programmeId: z.string(), sha256: z.string(), alreadyThere: z.boolean() }),
  }),
  changeTreatment: operation({
    method: 'PATCH',
    path: '/api/programmes/{programmeId}/treatment',
    tag: 'Programmes',
    summary: 'Sets steps of a treatment; those that are left out stay as they are.',
    body: readingOldNames(someOf(treatmentFields), OLD_STEP_NAMES),
    answer: treatmentAnswer,
  }),
  setTags: operation({
    method: 'PUT',
    path: '/api/programmes/{programmeId}/tags',
    tag: 'Programmes',
    status: 204,
    summary: 'Sets a programme’s tags.',
    body: tagsSchema,
  }),
  takeInTracks: operation({
    method: 'POST',
    path: '/api/programmes/{programmeId}/tracks',
    tag: 'Programmes',
    status: 204,
    summary:
      'Puts sound tracks of a programme’s file together, counted from 1, and takes each list of them in as a programme.',
    body: z.object({ programmes: trackLists }),
  }),
  pictureTimes: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/picture',
    tag: 'Programmes',
    summary: 'When the picture of a programme’s film is shown by its sound; null where there is none.',
    answer: z.object({ picture: z.object({ offsetSeconds: z.number(), durationSeconds: z.number() }).nullable() }),
  }),
  pictureSegment: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/picture/segment',
    tag: 'Programmes',
    summary: 'Ten seconds of the picture of a programme’s film, silent and small; the first of them is number 0.',
    query: z.object({ number: z.coerce.number().int().min(0).max(100_000) }),
    answer: 'film',
  }),
  setTimeCode: operation({
    method: 'PUT',
    path: '/api/programmes/{programmeId}/time-code',
    tag: 'Programmes',
    status: 204,
    summary: 'Sets the time code of a programme’s first frame; null for that of its file.',
    body: z.object({ timeCode: typedTimeCode.nullable() }),
  }),
  getCover: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/cover',
    tag: 'Programmes',
    summary: 'The picture that a programme’s files carry.',
    answer: 'picture',
  }),
  setCover: operation({
    method: 'PUT',
    path: '/api/programmes/{programmeId}/cover',
    tag: 'Programmes',
    status: 204,
    summary: 'A picture for a programme’s files: PNG or JPEG, 10 MB at most.',
    body: 'bytes',
  }),
  removeCover: operation({
    method: 'DELETE',
    path: '/api/programmes/{programmeId}/cover',
    tag: 'Programmes',
    status: 204,
    summary: 'Takes that picture away.',
  }),
};
