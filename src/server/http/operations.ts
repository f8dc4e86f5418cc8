import * as z from 'zod';
import { certificateSchema } from '@/core/delivery/certificate';
import { OLD_ROW_NAMES, setRowFields } from '@/core/delivery/row';
import { typedTimeCode } from '@/core/delivery/start-time-code';
import { tagsSchema } from '@/core/file-formats/tags';
import { WAVEFORM_LEVELS } from '@/core/loudness/waveform';
import { manifestSchema, receiverAnswerSchema } from '@/core/receiver/manifest';
import { readingOldNames } from '@/core/schema/old-names';
import { someOf } from '@/core/schema/some-of';
import { specSchema } from '@/core/spec/spec';
import { gainDbSchema } from '@/core/treatment/steps/gain';
import { limitSchema } from '@/core/treatment/steps/limit';
import { OLD_STEP_NAMES, preparationSchema, treatmentFields, treatmentSchema } from '@/core/treatment/treatment';
import { PREVIEW_CODECS } from '@/formats/preview-codecs';
import { takeInListing } from '../jobs/take-in-list';
import { MOST_FRAMES } from '../measure/frames';
import { newReceiverSchema } from '../receivers/new-receiver';
import { trackLists } from '../take-in/tracks';
import {
  deliveryAnswer,
  jobAnswer,
  jobsAnswer,
  partAnswer,
  predictionAnswer,
  programmeAnswer,
  programmeItemAnswer,
  receiverAnswer,
  sheetAnswer,
  standingAnswer,
  takeInRowAnswer,
  taskAnswer,
  transferAnswer,
  treatmentAnswer,
} from './answers';
import { BATCH_OPERATIONS } from './batch-operations';
import { COPY_OUT_OPERATIONS } from './copy-out-operations';
import { DEFINITION_OPERATIONS } from './definition-operations';
import { LINE_OPERATIONS } from './line-operations';
import { LINE_UP_OPERATIONS } from './line-up-operations';
import { OPERATING_OPERATIONS } from './operating-operations';
import { operation } from './operation';
import { PASS_OPERATIONS } from './pass-operations';
import { PEOPLE_OPERATIONS } from './people-operations';
import { json, stretchQuery, windowQuery } from './query';
import { REPLACEMENT_OPERATIONS } from './replacement-operations';
import { TEMPLATE_OPERATIONS } from './template-operations';

const id = z.string().min(1).max(64);
const named = z.object({ name: z.string().min(1).max(1000) });
const asFile = z.object({ as: z.enum(['pdf', 'json']).default('pdf') });
const preparation = json(preparationSchema);
const treatment = json(treatmentSchema);

/** Everything that can be asked of this app over HTTP. */
export const OPERATIONS = {
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
    summary: 'Keeps the spec that a job’s pages judge by; null for the usual one.',
    status: 204,
    body: z.object({ specId: id.nullable() }),
  }),
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
  viewSheet: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/sheet',
    tag: 'Hand over',
    summary: 'The hand-over sheet, of all programmes or of one: its rows, their forecasts, and what has come of them.',
    query: z.object({ programme: id.optional() }),
    answer: sheetAnswer,
  }),
  jobCertificates: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/certificates',
    tag: 'Hand over',
    summary: 'A summary of everything that was handed over, and every certificate, as PDF or JSON.',
    query: asFile,
    answer: 'pdf',
  }),
  writtenZip: operation({
    method: 'GET',
    path: '/api/jobs/{jobId}/written',
    tag: 'Hand over',
    summary:
      'Everything that can be handed over as one ZIP: files inside their spec or accepted, records, stems, certificates.',
    answer: 'zip',
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
  trace: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/trace',
    tag: 'Curves',
    summary: 'A programme as it is prepared: readings, series, and its waveform cut to so many columns.',
    query: z.object({ preparation, columns: z.coerce.number().int().min(1).max(8192) }),
    answer: 'bundle',
  }),
  waveform: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/waveform',
    tag: 'Curves',
    summary: 'Buckets of one level of each channel’s waveform.',
    query: z.object({
      preparation,
      level: z.coerce
        .number()
        .int()
        .min(0)
        .max(WAVEFORM_LEVELS.length - 1),
      firstBucket: z.coerce.number().int().nonnegative(),
      buckets: z.coerce.number().int().min(1).max(8192),
    }),
    answer: 'bundle',
  }),
  frames: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/frames',
    tag: 'Curves',
    summary: 'Frames of a programme as it is prepared: some seconds at a time, and none behind its end.',
    query: z.object({ preparation, ...stretchQuery }),
    answer: 'bundle',
  }),
  lossy: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/lossy',
    tag: 'Curves',
    summary: 'A span of a programme as a codec leaves it.',
    query: z.object({ treatment, codec: z.enum(PREVIEW_CODECS.map((codec) => codec.id)), ...stretchQuery }),
    answer: 'bundle',
  }),
  reduction: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/reduction',
    tag: 'Curves',
    summary: 'What a treatment’s limiter takes in a stretch.',
    query: z.object({ treatment, ...stretchQuery, frames: stretchQuery.frames.max(MOST_FRAMES) }),
    answer: 'bundle',
  }),
  bands: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/bands',
    tag: 'Curves',
    summary:
      'Level of each third of an octave in a stretch before and after a treatment, and how two channels stand to each other.',
    query: z.object({ treatment, ...stretchQuery }),
    answer: 'bundle',
  }),
  limiter: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/limiter',
    tag: 'Curves',
    summary: 'What a limiter could do for a spec (as JSON), or what one makes of a gain. Nothing is written.',
    query: z.union([
      z.object({ preparation, spec: id }),
      z.object({ preparation, gainDb: z.coerce.number().pipe(gainDbSchema), limit: json(limitSchema) }),
    ]),
    answer: 'bundle',
  }),
  ...LINE_UP_OPERATIONS,
  ...LINE_OPERATIONS,
  ...PASS_OPERATIONS,
  ...PEOPLE_OPERATIONS,
  ...OPERATING_OPERATIONS,
  ...BATCH_OPERATIONS,
  ...TEMPLATE_OPERATIONS,
  ...REPLACEMENT_OPERATIONS,
  ...COPY_OUT_OPERATIONS,
  ...DEFINITION_OPERATIONS,
  addRow: operation({
    method: 'POST',
    path: '/api/rows',
    tag: 'Hand over',
    status: 201,
    summary: 'Puts a row on the hand-over sheet: programme × spec × format × receiver. Nothing is written.',
    body: readingOldNames(setRowFields.extend({ programmeId: id }), OLD_ROW_NAMES),
    answer: z.object({ rowId: z.string() }),
  }),
  changeRow: operation({
    method: 'PATCH',
    path: '/api/rows/{rowId}',
    tag: 'Hand over',
    status: 204,
    summary: 'Changes what a row asks for.',
    body: readingOldNames(someOf(setRowFields), OLD_ROW_NAMES),
  }),
  removeRow: operation({
    method: 'DELETE',
    path: '/api/rows/{rowId}',
    tag: 'Hand over',
    status: 204,
    summary: 'Takes a row off the sheet; what was written for it stays.',
  }),
  addEdges: operation({
    method: 'POST',
    path: '/api/rows/{rowId}/edges',
    tag: 'Hand over',
    summary: 'Gives a row the room tone at its edges that its spec asks for and its programme has not.',
    answer: z.object({ isAdded: z.boolean() }),
  }),
  clearEdges: operation({
    method: 'DELETE',
    path: '/api/rows/{rowId}/edges',
    tag: 'Hand over',
    status: 204,
    summary: 'Puts a row’s edges back to those of its programme.',
  }),
  predictRow: operation({
    method: 'GET',
    path: '/api/rows/{rowId}/prediction',
    tag: 'Hand over',
    summary: 'What a row will be; worked out now, unless it was before.',
    answer: predictionAnswer,
  }),
  writeRow: operation({
    method: 'POST',
    path: '/api/rows/{rowId}/write',
    tag: 'Hand over',
    status: 202,
    summary: 'Has a row written, measured again from the file, and sent where it says; the task goes on by itself.',
    answer: z.object({ deliveryId: z.string() }),
  }),
  viewDelivery: operation({
    method: 'GET',
    path: '/api/deliveries/{deliveryId}',
    tag: 'Hand over',
    summary: 'A delivery: forecast, measured, judged.',
    answer: deliveryAnswer,
  }),
  deliveryFile: operation({
    method: 'GET',
    path: '/api/deliveries/{deliveryId}/file',
    tag: 'Hand over',
    summary: 'The written file; of several, the one that `part` counts to from 0.',
    query: z.object({ part: z.coerce.number().int().min(0).max(23).default(0) }),
    answer: 'audio',
  }),
  deliveryCertificate: operation({
    method: 'GET',
    path: '/api/deliveries/{deliveryId}/certificate',
    tag: 'Hand over',
    summary: `The certificate of a delivery, as PDF or JSON (\`${certificateSchema.shape.certificate.value}\`).`,
    query: asFile,
    answer: 'pdf',
  }),
  decide: operation({
    method: 'POST',
    path: '/api/deliveries/{deliveryId}/decision',
    tag: 'Hand over',
    summary: 'Decides about a file that misses its spec. Solved again, it is another delivery.',
    body: z.discriminatedUnion('decision', [
      z.object({ decision: z.literal('accept'), reason: z.string().trim().min(3).max(2000) }),
      z.object({ decision: z.literal('discard') }),
      z.object({ decision: z.literal('solve-again') }),
    ]),
    answer: z.object({ deliveryId: z.string() }),
  }),
  sendDelivery: operation({
    method: 'POST',
    path: '/api/deliveries/{deliveryId}/send',
    tag: 'Receivers',
    status: 202,
    summary: 'Sends a delivery to a receiver; never twice, unless it was refused.',
    body: z.object({ receiverId: id }),
    answer: z.object({ transferId: z.string() }),
  }),
  viewTransfer: operation({
    method: 'GET',
    path: '/api/transfers/{transferId}',
    tag: 'Receivers',
    summary: 'How far a delivery is on its way, what was answered, and what happened meanwhile.',
    answer: transferAnswer,
  }),
  sentFile: operation({
    method: 'GET',
    path: '/api/transfers/{transferId}/files/{index}',
    tag: 'Receivers',
    summary: 'A file of a delivery, for the receiver that was told to fetch it.',
    query: z.object({ token: z.string().min(1).max(100) }),
    answer: 'audio',
  }),
  listReceivers: operation({
    method: 'GET',
    path: '/api/receivers',
    tag: 'Receivers',
    summary: 'Where deliveries can go.',
    answer: z.array(receiverAnswer),
  }),
  addReceiver: operation({
    method: 'POST',
    path: '/api/receivers',
    tag: 'Receivers',
    status: 201,
    summary: 'Adds a receiver. Its secret is never answered.',
    body: newReceiverSchema,
    answer: receiverAnswer,
  }),
  changeReceiver: operation({
    method: 'PUT',
    path: '/api/receivers/{receiverId}',
    tag: 'Receivers',
    status: 204,
    summary: 'Changes a receiver; an empty secret leaves the one that it has.',
    body: newReceiverSchema,
  }),
  removeReceiver: operation({
    method: 'DELETE',
    path: '/api/receivers/{receiverId}',
    tag: 'Receivers',
    status: 204,
    summary: 'Takes a receiver away; what was sent to it is still told.',
  }),
  listSpecs: operation({
    method: 'GET',
    path: '/api/specs',
    tag: 'Specs',
    summary: 'Every spec, in its newest version.',
    answer: z.array(specSchema),
  }),
  saveSpec: operation({
    method: 'POST',
    path: '/api/specs',
    tag: 'Specs',
    status: 201,
    summary: 'Brings in a spec as one of your own: new, or the next version of what its id names.',
    body: specSchema,
    answer: specSchema,
  }),
  viewSpec: operation({
    method: 'GET',
    path: '/api/specs/{specId}',
    tag: 'Specs',
    summary: 'A spec, as it is now or in one of its versions.',
    query: z.object({ version: z.coerce.number().int().optional() }),
    answer: specSchema,
  }),
  viewTask: operation({
    method: 'GET',
    path: '/api/tasks/{taskId}',
    tag: 'Tasks',
    summary: 'How far a task is.',
    answer: taskAnswer,
  }),
  steerTask: operation({
    method: 'POST',
    path: '/api/tasks/{taskId}',
    tag: 'Tasks',
    status: 204,
    summary: 'Cancels a task, or has its work done once more.',
    body: z.object({ do: z.enum(['cancel', 'retry']) }),
  }),
  events: operation({
    method: 'GET',
    path: '/api/events',
    tag: 'Tasks',
    summary:
      'Every change of every task, and of what is set (kind "edit"), as server-sent events; first, those after an event that is named here or in Last-Event-ID. Where these are not known any more, an event of the type "missed".',
    query: z.object({ after: z.coerce.number().int().nonnegative().optional() }),
    answer: 'events',
  }),
  openApi: operation({
    method: 'GET',
    path: '/api/openapi.json',
    tag: 'This description',
    summary: 'This description.',
    answer: z.looseObject({ openapi: z.literal('3.1.0') }),
  }),
  tellDesk: operation({
    method: 'POST',
    path: '/api/intake/{intakeId}/hook',
    tag: 'Simulated intake',
    status: 202,
    summary: 'A simulated intake is told of a delivery, and fetches it. Signed.',
    body: manifestSchema,
    answer: receiverAnswerSchema,
  }),
  askDesk: operation({
    method: 'GET',
    path: '/api/intake/{intakeId}/hook/{key}',
    tag: 'Simulated intake',
    summary: 'What a simulated intake says of a delivery. Signed.',
    answer: receiverAnswerSchema,
  }),
  headObject: operation({
    method: 'HEAD',
    path: '/api/intake/{intakeId}/objects/{key}/{name}',
    tag: 'Simulated intake',
    summary: 'How much of an object has arrived, as `X-Received`. Signed.',
  }),
  putObject: operation({
    method: 'PUT',
    path: '/api/intake/{intakeId}/objects/{key}/{name}',
    tag: 'Simulated intake',
    summary: 'A part of an object, by its Content-Range; `delivery.json` says that all are whole. Signed.',
    body: 'bytes',
  }),
  getObject: operation({
    method: 'GET',
    path: '/api/intake/{intakeId}/objects/{key}/{name}',
    tag: 'Simulated intake',
    summary: '`answer.json`: what the intake says of a delivery. Signed.',
    answer: receiverAnswerSchema,
  }),
};
