/** What can be asked of line-ups over HTTP. */
import * as z from 'zod';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { RECORD_FORMS } from '@/core/lineup/assembly';
import { BALANCES, lineUpChange, lineUpFields } from '@/core/lineup/line-up';
import { assemblyWish } from '../assemblies/assemblies';
import {
  assembliesAnswer,
  assemblyPreviewAnswer,
  balanceAnswer,
  balanceForecastsAnswer,
  bookAnswer,
  filmAnswer,
  isrcsAnswer,
  lineUpReadingAnswer,
  lineUpsAnswer,
  stemsAnswer,
} from './line-up-answers';
import { operation } from './operation';
import { id, json } from './query';

export const LINE_UP_OPERATIONS = {
  listLineUps: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/line-ups',
    tag: 'Line up',
    summary: 'The line-ups of a job: programmes that belong together, in order; and those that names suggest.',
    answer: lineUpsAnswer,
  }),
  createLineUp: operation({
    method: 'POST',
    path: '/api/jobs/{jobId}/line-ups',
    tag: 'Line up',
    status: 201,
    summary: 'Makes a line-up of programmes of a job.',
    body: lineUpFields,
    answer: z.object({ lineUpId: z.string() }),
  }),
  changeLineUp: operation({
    method: 'PATCH',
    path: '/api/line-ups/{lineUpId}',
    tag: 'Line up',
    status: 204,
    summary: 'Changes what is stated of a line-up: kind, name, spec, or its programmes in order with their gaps.',
    body: lineUpChange,
  }),
  removeLineUp: operation({
    method: 'DELETE',
    path: '/api/line-ups/{lineUpId}',
    tag: 'Line up',
    status: 204,
    summary: 'Takes a line-up away; its programmes stay as they are.',
  }),
  readLineUp: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/reading',
    tag: 'Line up',
    summary: 'A line-up with its current settings, read as one programme played in order.',
    query: z.object({ spec: id.optional() }),
    answer: lineUpReadingAnswer,
  }),
  forecastBalances: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/balance',
    tag: 'Line up',
    summary: 'What each way of setting the levels of a line-up would come to for a spec, limiters included.',
    query: z.object({ spec: id.optional() }),
    answer: balanceForecastsAnswer,
  }),
  balanceLineUp: operation({
    method: 'POST',
    path: '/api/line-ups/{lineUpId}/balance',
    tag: 'Line up',
    summary: 'Sets the gains of a line-up for a spec: one for all, or one for each; no peak goes over the ceiling.',
    body: z.object({ balance: z.enum(BALANCES), specId: id.optional() }),
    answer: balanceAnswer,
  }),
  numberIsrcs: operation({
    method: 'POST',
    path: '/api/line-ups/{lineUpId}/isrcs',
    tag: 'Line up',
    summary: 'Gives each programme of a line-up an ISRC, in order, numbered on from a first.',
    body: z.object({ first: z.string().min(12).max(20) }),
    answer: isrcsAnswer,
  }),
  transition: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/transition',
    tag: 'Line up',
    summary: 'The last 5 s of a programme, the gap behind it and the first 5 s of the next, as they would be written.',
    query: z.object({ after: id }),
    answer: 'bundle',
  }),
  viewStems: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/stems',
    tag: 'Line up',
    summary: 'The stems of a line-up and their mix, how their files differ, and the newest null test.',
    answer: stemsAnswer,
  }),
  testStems: operation({
    method: 'POST',
    path: '/api/line-ups/{lineUpId}/stems/test',
    tag: 'Line up',
    status: 202,
    summary: 'Compares the stems of a line-up with their mix (a null test); a task does it.',
    answer: z.object({ taskId: z.string() }),
  }),
  residual: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/stems/residual',
    tag: 'Line up',
    summary: 'What the mix has in a stretch that the sum of its stems has not, of half a minute at most.',
    query: z.object({ from: z.coerce.number().int().min(0), frames: z.coerce.number().int().min(1).max(1e8) }),
    answer: 'bundle',
  }),
  previewAssembly: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/preview',
    tag: 'Line up',
    summary:
      'What would be written of a line-up as one record: where its tracks begin, and what a CD asks. Nothing is written.',
    query: z.object({ form: z.enum(RECORD_FORMS), format: json(deliveryFormatSchema) }),
    answer: assemblyPreviewAnswer,
  }),
  previewBook: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/book',
    tag: 'Line up',
    summary: "What a book's folder would hold, and which chapters have no verified file yet. Nothing is written.",
    query: z.object({ spec: z.string().max(64).optional() }),
    answer: bookAnswer,
  }),
  viewFilm: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/film',
    tag: 'Line up',
    summary: 'A film, and for each of its tracks the verified file that goes into it. Nothing is written.',
    answer: filmAnswer,
  }),
  filmLineUp: operation({
    method: 'POST',
    path: '/api/programmes/{programmeId}/film',
    tag: 'Line up',
    status: 201,
    summary:
      'The line-up of the film that a programme is sound of: the one that is there, or one with all of its sound.',
    answer: z.object({ lineUpId: z.string() }),
  }),
  listAssemblies: operation({
    method: 'GET',
    path: '/api/line-ups/{lineUpId}/assemblies',
    tag: 'Line up',
    summary: 'What was written of a line-up as one record, and what is being written, the newest first.',
    answer: assembliesAnswer,
  }),
  createAssembly: operation({
    method: 'POST',
    path: '/api/line-ups/{lineUpId}/assemblies',
    tag: 'Line up',
    status: 201,
    summary:
      'Writes a line-up: as a record in one file with its tracks marked, or in a file for each; as stems with their master; as a book, with the verified files of its chapters; or as a film, with verified files in place of its sound.',
    body: assemblyWish,
    answer: z.object({ assemblyId: z.string() }),
  }),
  assemblyFile: operation({
    method: 'GET',
    path: '/api/assemblies/{assemblyId}/file',
    tag: 'Line up',
    summary: 'A file of a written record: part N of its list of files.',
    query: z.object({ part: z.coerce.number().int().min(0).max(10_000).default(0) }),
    answer: 'audio',
  }),
  assemblyZip: operation({
    method: 'GET',
    path: '/api/assemblies/{assemblyId}/zip',
    tag: 'Line up',
    summary: 'All files of a written record as one ZIP.',
    answer: 'zip',
  }),
  discardAssembly: operation({
    method: 'DELETE',
    path: '/api/assemblies/{assemblyId}',
    tag: 'Line up',
    status: 204,
    summary: 'Throws the files of a written record away.',
  }),
};
