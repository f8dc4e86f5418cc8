/** The columns of JSON: what each holds, and the version that it is stored in. */
import * as z from 'zod';
import { type BatchItem, type BatchWish, batchWish } from '@/core/batch/batch';
import { type Cover, coverSchema } from '@/core/delivery/cover';
import {
  type DeliveryFormat,
  deliveryFormatSchema,
  type ResolvedFormat,
  resolvedFormatSchema,
} from '@/core/delivery/format';
import { type LevelMode, levelModeSchema, type SetRow, setRowSchema } from '@/core/delivery/row';
import { type RowEdges, rowEdgesSchema } from '@/core/delivery/row-edges';
import { type LabelledStart, startTimeCodeSchema } from '@/core/delivery/start-time-code';
import { type TemplateSettings, templateSettings } from '@/core/delivery/template';
import type { ErrorRecord } from '@/core/errors/app-error';
import type { Tags } from '@/core/file-formats/tags';
import { type FilmTracks, filmTracksSchema } from '@/core/film/film-tracks';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { type RecordSettings, recordSettings } from '@/core/lineup/line-up';
import { type AlarmDetail, alarmDetailSchema } from '@/core/live/alarms/alarm';
import { type AlarmSettings, alarmSettings } from '@/core/live/alarms/alarms';
import { type LineInput, lineInput } from '@/core/live/line';
import type { Readings } from '@/core/loudness/readings';
import { type Manifest, manifestSchema } from '@/core/receiver/manifest';
import type { Verdict } from '@/core/spec/assessment';
import { type Spec, specSchema } from '@/core/spec/spec';
import type { Landing } from '@/core/treatment/plan-levels';
import { type Trim, trimSchema } from '@/core/treatment/steps/trim';
import { type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { FileReport, PassReading } from '@/workers/protocol';
import { jsonColumn } from './json-column';
import {
  type AssemblyOutcome,
  assemblyOrderSchema,
  assemblyOutcomeSchema,
  type StoredAssemblyOrder,
} from './stored/assembly';
import { batchItemsSchema } from './stored/batch';
import {
  type DeliveryOutcome,
  landingSchema,
  outcomeSchema,
  predictionSchema,
  type RowPrediction,
  reductionSchema,
  verdictSchema,
} from './stored/delivery';
import { audioFormatSchema, fileReportSchema, readTagsSchema } from './stored/file-report';
import { type NullTestOutcome, nullTestSchema } from './stored/null-test';
import { type PassOrder, passOrderSchema, passReadingSchema } from './stored/outboard-pass';
import { readingsSchema } from './stored/readings';
import { type RecordingFacts, recordingFactsSchema } from './stored/recording';
import { conductSchema, errorSchema, type IntakeConduct, type Reference, referenceSchema } from './stored/small';

export const alarmDetailColumn = jsonColumn<AlarmDetail>({ version: 1, schema: alarmDetailSchema });
export const alarmSettingsColumn = jsonColumn<AlarmSettings>({ version: 1, schema: alarmSettings });
export const assemblyOrderColumn = jsonColumn<StoredAssemblyOrder>({ version: 1, schema: assemblyOrderSchema });
export const assemblyOutcomeColumn = jsonColumn<AssemblyOutcome>({ version: 1, schema: assemblyOutcomeSchema });
export const audioFormatColumn = jsonColumn<AudioFormat>({ version: 1, schema: audioFormatSchema });
export const batchItemsColumn = jsonColumn<BatchItem[]>({ version: 1, schema: batchItemsSchema });
export const batchWishColumn = jsonColumn<BatchWish>({ version: 1, schema: batchWish });
export const conductColumn = jsonColumn<IntakeConduct>({ version: 1, schema: conductSchema });
export const coverColumn = jsonColumn<Cover>({ version: 1, schema: coverSchema });
export const errorColumn = jsonColumn<ErrorRecord>({ version: 1, schema: errorSchema });
export const fileReportColumn = jsonColumn<FileReport>({ version: 1, schema: fileReportSchema });
export const filmTracksColumn = jsonColumn<FilmTracks>({ version: 1, schema: filmTracksSchema });
export const formatColumn = jsonColumn<DeliveryFormat>({ version: 1, schema: deliveryFormatSchema });
export const landingColumn = jsonColumn<Landing>({ version: 1, schema: landingSchema });
export const levelModeColumn = jsonColumn<LevelMode>({ version: 1, schema: levelModeSchema });
export const lineInputColumn = jsonColumn<LineInput>({ version: 1, schema: lineInput });
export const manifestColumn = jsonColumn<Manifest>({ version: 1, schema: manifestSchema });
export const nullTestColumn = jsonColumn<NullTestOutcome>({ version: 1, schema: nullTestSchema });
export const outcomeColumn = jsonColumn<DeliveryOutcome>({ version: 1, schema: outcomeSchema });
export const passOrderColumn = jsonColumn<PassOrder>({ version: 1, schema: passOrderSchema });
export const passReadingColumn = jsonColumn<PassReading>({ version: 1, schema: passReadingSchema });
export const predictionColumn = jsonColumn<RowPrediction>({ version: 1, schema: predictionSchema });
export const readingsColumn = jsonColumn<Readings>({ version: 1, schema: readingsSchema });
export const reasonsColumn = jsonColumn<string[]>({ version: 1, schema: z.array(z.string()) });
export const recordColumn = jsonColumn<RecordSettings>({ version: 1, schema: recordSettings });
export const recordingFactsColumn = jsonColumn<RecordingFacts>({ version: 1, schema: recordingFactsSchema });
export const reductionColumn = jsonColumn<ReductionFigures>({ version: 1, schema: reductionSchema });
export const referenceColumn = jsonColumn<Reference>({ version: 1, schema: referenceSchema });
export const resolvedFormatColumn = jsonColumn<ResolvedFormat>({ version: 1, schema: resolvedFormatSchema });
export const rowEdgesColumn = jsonColumn<RowEdges>({ version: 1, schema: rowEdgesSchema });
export const setRowsColumn = jsonColumn<SetRow[]>({ version: 1, schema: z.array(setRowSchema) });
export const specColumn = jsonColumn<Spec>({ version: 1, schema: specSchema });
export const tagsColumn = jsonColumn<Tags>({ version: 1, schema: readTagsSchema });
export const templateSettingsColumn = jsonColumn<TemplateSettings>({ version: 1, schema: templateSettings });
export const timeCodeColumn = jsonColumn<LabelledStart>({ version: 1, schema: startTimeCodeSchema });
export const treatmentColumn = jsonColumn<Treatment>({ version: 1, schema: treatmentSchema });
export const trimColumn = jsonColumn<Trim>({ version: 1, schema: trimSchema });
export const verdictColumn = jsonColumn<Verdict>({ version: 1, schema: verdictSchema });
