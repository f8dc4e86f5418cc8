/** What can be asked of lines over HTTP. */
import * as z from 'zod';
import { LINE_STATES, lineFields, PRE_ROLL_SECONDS } from '@/core/live/line';
import { SECOND_STATES } from '@/core/live/second-log';
import { someOf } from '@/core/schema/some-of';
import { RECORDING_STATES } from '../db/schema';
import { operation } from './operation';

const level = z.number().nullable();

const lineAnswer = z.looseObject({
  id: z.string(),
  name: z.string(),
  input: lineFields.shape.input,
  jobId: z.string(),
  isOn: z.boolean(),
  live: z.looseObject({ state: z.enum(LINE_STATES) }),
});

const eventAnswer = z.object({
  id: z.int(),
  kind: z.string(),
  startMs: z.int(),
  endMs: z.int().nullable(),
  words: z.string(),
});

const recordingAnswer = z.looseObject({
  id: z.string(),
  fileName: z.string(),
  state: z.enum(RECORDING_STATES),
  startMs: z.int(),
  jobId: z.string(),
  programmeId: z.string().nullable(),
});

const stepAnswer = z.object({
  atS: z.int(),
  maxMomentaryLufs: level,
  minShortTermLufs: level,
  maxShortTermLufs: level,
  integratedLufs: level,
  truePeakDbtp: level,
  states: z.record(z.enum(SECOND_STATES), z.int()),
});

const second = z.coerce.number().int().nonnegative();
/** Of one answer. */
const MOST_STEPS = 100_000;
const MOST_EVENTS = 1000;
const MOST_REPORT_SECONDS = 7 * 86_400;

/** What can be done with a line that is set up. */
const control = z.discriminatedUnion('do', [
  z.object({ do: z.literal('turn-on') }),
  z.object({ do: z.literal('turn-off') }),
  z.object({ do: z.literal('pause') }),
  z.object({ do: z.literal('continue') }),
  z.object({ do: z.literal('reset') }),
  z.object({ do: z.literal('marker') }),
  z.object({
    do: z.literal('record'),
    bitDepth: z.literal([24, 32]).default(24),
    preRollSeconds: z.number().min(0).max(PRE_ROLL_SECONDS).default(0),
  }),
  z.object({ do: z.literal('stop-recording') }),
]);

export type LineControl = z.infer<typeof control>;

export const LINE_OPERATIONS = {
  listLines: operation({
    method: 'GET',
    path: '/api/live',
    tag: 'Lines',
    summary: 'Every line, with what is known of it now.',
    answer: z.object({ lines: z.array(lineAnswer) }),
  }),
  addLine: operation({
    method: 'POST',
    path: '/api/live',
    tag: 'Lines',
    status: 201,
    summary: 'Sets up a line, which is off.',
    body: lineFields,
    answer: z.object({ lineId: z.string() }),
  }),
  liveLines: operation({
    method: 'GET',
    path: '/api/live/stream',
    tag: 'Lines',
    summary: 'Lines as they sound: what is known now, then readings ten times a second, and all that happens.',
    query: z.object({ line: z.string().max(64).optional() }),
    answer: 'events',
  }),
  viewLine: operation({
    method: 'GET',
    path: '/api/live/{lineId}',
    tag: 'Lines',
    summary: 'A line, with what is known of it now.',
    answer: lineAnswer,
  }),
  changeLine: operation({
    method: 'PATCH',
    path: '/api/live/{lineId}',
    tag: 'Lines',
    status: 204,
    summary:
      'Sets some of a line. Where it comes from can be changed only while it is off; the faults of a simulated line always.',
    body: someOf(lineFields),
  }),
  removeLine: operation({
    method: 'DELETE',
    path: '/api/live/{lineId}',
    tag: 'Lines',
    status: 204,
    summary: 'Deletes a line that is off. Its recordings stay in their jobs.',
  }),
  controlLine: operation({
    method: 'POST',
    path: '/api/live/{lineId}/control',
    tag: 'Lines',
    status: 202,
    summary:
      'Turns a line on or off, pauses, continues or resets its measuring, adds a marker, begins or stops a recording.',
    body: control,
    answer: z.object({ recordingId: z.string().nullable() }),
  }),
  pushFrames: operation({
    method: 'POST',
    path: '/api/live/{lineId}/frames',
    tag: 'Lines',
    status: 204,
    summary: 'Frames of a line that comes from an input of a browser, interleaved as 32-bit float, little-endian.',
    query: z.object({
      session: z.string().min(1).max(64),
      startFrame: z.coerce.number().int().nonnegative(),
      sampleRateHz: z.coerce.number().int().min(8000).max(384_000),
      channels: z.coerce.number().int().min(1).max(24),
    }),
    body: 'bytes',
  }),
  lineLog: operation({
    method: 'GET',
    path: '/api/live/{lineId}/log',
    tag: 'Lines',
    summary: 'What was read in each second, or in steps of several, between two times (in seconds since 1970).',
    query: z
      .object({ from: second, to: second, step: z.coerce.number().int().min(1).max(86_400).default(1) })
      .refine(({ from, to, step }) => to > from && (to - from) / step <= MOST_STEPS, {
        message: `from 1 to ${MOST_STEPS} steps can be asked for`,
      }),
    answer: z.object({ steps: z.array(stepAnswer) }),
  }),
  lineLogCsv: operation({
    method: 'GET',
    path: '/api/live/{lineId}/log.csv',
    tag: 'Lines',
    summary: 'The log of each second between two times (in seconds since 1970), as CSV.',
    query: z.object({ from: second, to: second }),
    answer: 'csv',
  }),
  lineReport: operation({
    method: 'GET',
    path: '/api/live/{lineId}/report',
    tag: 'Lines',
    summary:
      'What a line was between two times (in seconds since 1970), with every interval outside the spec: a PDF, a picture (SVG) or JSON.',
    query: z
      .object({
        from: second,
        to: second,
        as: z.enum(['pdf', 'svg', 'json']).default('pdf'),
        /** Of the times that are written. */
        utcOffsetMinutes: z.coerce.number().int().min(-900).max(900).default(0),
      })
      .refine(({ from, to }) => to > from && to - from <= MOST_REPORT_SECONDS, {
        message: 'a report is of a week at most',
      }),
    answer: 'report',
  }),
  lineEvents: operation({
    method: 'GET',
    path: '/api/live/{lineId}/events',
    tag: 'Lines',
    summary: 'What happened between two times (in milliseconds since 1970), the latest first.',
    query: z.object({
      from: second.default(0),
      to: second.default(8.64e15),
      limit: z.coerce.number().int().min(1).max(MOST_EVENTS).default(200),
    }),
    answer: z.object({ events: z.array(eventAnswer) }),
  }),
  lineRecordings: operation({
    method: 'GET',
    path: '/api/live/{lineId}/recordings',
    tag: 'Lines',
    summary: 'The recordings of a line, the latest first.',
    answer: z.object({ recordings: z.array(recordingAnswer) }),
  }),
};
