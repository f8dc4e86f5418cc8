/** What is answered over HTTP, as far as it is promised: there may be more fields, and these stay what they are. */
import * as z from 'zod';
import { BATCH_ITEM_STATES } from '@/core/batch/batch';
import { certifiedReadings } from '@/core/delivery/certificate';
import { deliveryFormatSchema, resolvedFormatSchema } from '@/core/delivery/format';
import { levelModeSchema } from '@/core/delivery/row';
import { ASSESSMENT_STATES } from '@/core/spec/assessment';
import { specSchema } from '@/core/spec/spec';
import { treatmentSchema } from '@/core/treatment/treatment';
import { TASK_KINDS, TASK_STATES, TRANSFER_STATES } from '../db/schema';
import { TRANSPORTS } from '../receivers/transports';

const level = z.number().nullable();

const readings = z.looseObject(certifiedReadings.shape);

const error = z.object({ code: z.string(), happened: z.string(), safe: z.string(), todo: z.string() });

export const errorAnswer = z.object({ error });

export const taskAnswer = z.looseObject({
  taskId: z.string(),
  kind: z.enum(TASK_KINDS),
  subjectId: z.string(),
  state: z.enum(TASK_STATES),
  fraction: z.number(),
  timesRealTime: level,
  error: error.nullable(),
});

const verdict = z.looseObject({
  specId: z.string(),
  inside: z.boolean(),
  items: z.array(z.looseObject({ name: z.string(), measured: level, required: z.string(), inside: z.boolean() })),
});

export const jobsAnswer = z.array(
  z.looseObject({
    id: z.string(),
    name: z.string(),
    createdAtMs: z.number(),
    touchedAtMs: z.number(),
    isArchived: z.boolean(),
    programmes: z.int(),
    measured: z.int(),
    written: z.int(),
    missing: z.int(),
    undecided: z.int(),
    toWrite: z.int(),
    accepted: z.int(),
    refused: z.int(),
    underway: z.int(),
  }),
);

export const standingAnswer = z.object({
  specName: z.string(),
  inside: z.int(),
  outside: z.int(),
  notAssessed: z.int(),
  notMeasured: z.int(),
});

const audioFormat = z.looseObject({ sampleRateHz: z.int(), channels: z.int(), frames: z.int() });

export const programmeAnswer = z.looseObject({
  id: z.string(),
  title: z.string(),
  fileName: z.string(),
  sha256: z.string(),
  format: audioFormat,
  measured: z.looseObject({ readings, findings: z.array(z.looseObject({})) }).nullable(),
  task: taskAnswer.nullable(),
  treatment: treatmentSchema,
});

export const jobAnswer = z.looseObject({
  id: z.string(),
  name: z.string(),
  specId: z.string().nullable(),
  programmes: z.array(programmeAnswer),
});

/** A part of a long list. */
export function partAnswer<Row extends z.ZodType>(row: Row) {
  return z.looseObject({ total: z.int(), offset: z.int(), rows: z.array(row) });
}

const levels = z.looseObject({ integratedLufs: level, rmsDbfs: level, truePeakDbtp: level, samplePeakDbfs: level });
const state = z.enum(ASSESSMENT_STATES);

export const programmeItemAnswer = z.looseObject({
  id: z.string(),
  title: z.string(),
  about: z.string(),
  treated: z.looseObject({ state, levels }).nullable(),
  task: taskAnswer.nullable(),
});

export const takeInRowAnswer = z.looseObject({
  id: z.string(),
  title: z.string(),
  fileName: z.string(),
  sha256: z.string(),
  measured: z
    .looseObject({
      state,
      levels,
      readings: z.record(z.string(), z.number().nullable()),
      misses: z.array(z.looseObject({ state, text: z.string() })),
      findings: z.array(z.looseObject({ code: z.string(), severity: z.string(), message: z.string() })),
    })
    .nullable(),
  task: taskAnswer.nullable(),
});

export const treatmentAnswer = z.looseObject({ version: z.int(), treatment: treatmentSchema });

export const predictionAnswer = z.looseObject({
  spec: specSchema,
  format: resolvedFormatSchema,
  treatment: treatmentSchema,
  readings,
  verdict,
  frames: z.int(),
  size: z.object({ bytes: z.number(), isExact: z.boolean() }),
});

export const transferAnswer = z.looseObject({
  id: z.string(),
  deliveryId: z.string(),
  receiverId: z.string(),
  state: z.enum(TRANSFER_STATES),
  reasons: z.array(z.string()),
  task: taskAnswer.nullable(),
  log: z.array(z.object({ atMs: z.number(), text: z.string() })),
});

export const deliveryAnswer = z.looseObject({
  id: z.string(),
  programmeId: z.string(),
  fileName: z.string(),
  spec: specSchema,
  files: z.array(
    z.looseObject({ fileName: z.string(), channel: z.string().nullable(), sizeBytes: z.int(), sha256: z.string() }),
  ),
  predicted: readings,
  written: z.looseObject({ readings, verdict, sizeBytes: z.int() }).nullable(),
  acceptedReason: z.string().nullable(),
  isDiscarded: z.boolean(),
  task: taskAnswer.nullable(),
});

const rowAnswer = z.looseObject({
  id: z.string(),
  programmeId: z.string(),
  title: z.string(),
  spec: specSchema,
  format: deliveryFormatSchema,
  levelMode: levelModeSchema,
  receiver: z.object({ id: z.string(), name: z.string() }).nullable(),
  problem: z.looseObject({ text: z.string(), nearestText: z.string() }).nullable(),
  prediction: predictionAnswer.nullable(),
  delivery: deliveryAnswer.nullable(),
  transfer: transferAnswer.nullable(),
  isStale: z.boolean(),
});

export const sheetAnswer = z.looseObject({ rows: z.array(rowAnswer), nameTemplate: z.string() });

export const batchAnswer = z.looseObject({
  id: z.string(),
  wish: z.looseObject({ kind: z.string() }),
  items: z.array(
    z.looseObject({
      programmeId: z.string(),
      title: z.string(),
      state: z.enum(BATCH_ITEM_STATES),
      text: z.string(),
      rowId: z.string().nullable(),
      /** A review copy; null of all else. */
      file: z.object({ fileName: z.string(), sizeBytes: z.number(), sha256: z.string() }).nullable(),
    }),
  ),
  task: taskAnswer.nullable(),
});

export const batchesAnswer = z.object({ batches: z.array(batchAnswer) });

export const receiverAnswer = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.enum(TRANSPORTS.map((transport) => transport.kind)),
  address: z.string(),
  hasSecret: z.boolean(),
  isBuiltIn: z.boolean(),
});
