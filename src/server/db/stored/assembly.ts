/** What records are written from, and what became of them, as they are stored. */
import * as z from 'zod';
import { type Cover, coverSchema } from '@/core/delivery/cover';
import {
  type DeliveryFormat,
  deliveryFormatSchema,
  type ResolvedFormat,
  resolvedFormatSchema,
} from '@/core/delivery/format';
import type { Tags } from '@/core/file-formats/tags';
import { filmTracksSchema } from '@/core/film/film-tracks';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { ASSEMBLED_ROLES, ASSEMBLY_FORMS, type AssemblyForm } from '@/core/lineup/assembly';
import { type RecordSettings, recordSettings } from '@/core/lineup/line-up';
import type { TrackRow } from '@/core/lineup/track-sheet';
import { ASSESSMENT_STATES, type Assessment, type Verdict } from '@/core/spec/assessment';
import { type Spec, specSchema } from '@/core/spec/spec';
import { type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import type { AssembledFile } from '@/workers/node/assembly-order';
import type { WrittenNull } from '@/workers/node/write-stems';
import type { FileReport } from '@/workers/protocol';
import { reductionSchema, verdictSchema } from './delivery';
import { type Fields, level } from './fields';
import { fileReportSchema, readTagsSchema } from './file-report';

/** A programme of a record, as it was when the record was asked for. */
interface StoredMember {
  programmeId: string;
  sourceSha256: string;
  fileName: string;
  title: string;
  gapSeconds: number;
  treatment: Treatment;
  tags: Tags;
  /** Of a book or a film: the verified file that goes into it; null of all else. */
  deliveryId: string | null;
  /** Of a film: the tracks that it goes into, counted from 1; none of all else. */
  tracks: number[];
}

export interface StoredAssemblyOrder {
  name: string;
  isBook: boolean;
  form: AssemblyForm;
  /** As it was asked for. */
  format: DeliveryFormat;
  spec: Spec;
  record: RecordSettings;
  /** The picture that its files carry; null where no programme has one, and of stems. */
  cover: Cover | null;
  /** Of stems: which of the members is their mix; null of all else. */
  mixId: string | null;
  /** What sound is put back into; null of all else. */
  film: { sha256: string; fileName: string } | null;
  members: StoredMember[];
}

/** Sound of a film that was written, as it was decoded from it. */
export interface WrittenSound {
  title: string;
  /** Counted from 1. */
  tracks: number[];
  /** What it is kept as, in a few words. */
  formatText: string;
  /** What it is judged by. */
  spec: Spec;
  report: FileReport;
  verdict: Verdict;
  /** By how much it begins later than it did, by the picture. */
  movedMs: number;
}

export interface AssemblyOutcome {
  format: ResolvedFormat;
  files: AssembledFile[];
  report: FileReport;
  verdict: Verdict;
  rows: TrackRow[];
  reduction: ReductionFigures | null;
  /** What a CD asks; null where it is not for one. */
  cd: Assessment[] | null;
  /** What written stems leave of their master; null of all else. */
  residual: WrittenNull | null;
  /** Of a film: its sounds, in the order of its members; null of all else. `report` and `verdict` are those of the one that stands worst. */
  sounds: WrittenSound[] | null;
}

const member = z.object({
  programmeId: z.string(),
  sourceSha256: z.string(),
  fileName: z.string(),
  title: z.string(),
  gapSeconds: z.number(),
  treatment: treatmentSchema,
  tags: readTagsSchema,
  deliveryId: z.string().nullable().default(null),
  tracks: filmTracksSchema.shape.tracks.or(z.tuple([])).default([]),
} satisfies Fields<StoredMember>);

export const assemblyOrderSchema = z.object({
  name: z.string(),
  isBook: z.boolean().default(false),
  form: z.enum(ASSEMBLY_FORMS),
  format: deliveryFormatSchema,
  spec: specSchema,
  record: recordSettings,
  cover: coverSchema.nullable().default(null),
  mixId: z.string().nullable().default(null),
  film: filmTracksSchema.pick({ sha256: true, fileName: true }).nullable().default(null),
  members: z.array(member),
} satisfies Fields<StoredAssemblyOrder>);

const file = z.object({
  fileName: z.string(),
  role: z.enum(ASSEMBLED_ROLES),
  track: z.number().nullable(),
  sizeBytes: z.number(),
  sha256: z.string(),
} satisfies Fields<AssembledFile>);

const row = z.object({
  number: z.number(),
  title: z.string(),
  artist: z.string(),
  isrc: z.string(),
  integratedLufs: level,
  fromWholeLu: level,
  truePeakDbtp: level,
  startFrame: z.number(),
  pause: z.string(),
  start: z.string(),
  length: z.string(),
  fileName: z.string(),
  sha256: z.string(),
} satisfies Fields<TrackRow>);

const assessment: z.ZodType<Assessment> = z.object({
  key: z.string(),
  name: z.string(),
  measured: level,
  // What a CD asks is in seconds, or is no number.
  unit: z.literal('s').nullable(),
  reading: z.undefined().optional(),
  found: z.string(),
  required: z.string(),
  state: z.enum(ASSESSMENT_STATES),
  inside: z.boolean(),
  deviation: z.number(),
  phrase: z.string(),
  why: z.string().nullable(),
} satisfies Fields<Assessment>);

const residual = z.object({
  nulls: z.boolean(),
  residualDb: level,
  greatestResidualDb: level,
  mixDb: level,
  toleranceDb: z.number(),
} satisfies Fields<WrittenNull>);

const sound = z.object({
  title: z.string(),
  tracks: filmTracksSchema.shape.tracks,
  formatText: z.string(),
  spec: specSchema,
  report: fileReportSchema,
  verdict: verdictSchema,
  movedMs: z.number(),
} satisfies Fields<WrittenSound>);

export const assemblyOutcomeSchema = z.object({
  format: resolvedFormatSchema,
  files: z.array(file),
  report: fileReportSchema,
  verdict: verdictSchema,
  rows: z.array(row),
  reduction: reductionSchema.nullable(),
  cd: z.array(assessment).nullable(),
  residual: residual.nullable().default(null),
  sounds: z.array(sound).nullable().default(null),
} satisfies Fields<AssemblyOutcome>);
