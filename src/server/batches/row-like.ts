import { deliveryFormatSchema } from '@/core/delivery/format';
import { lowerName } from '@/core/spec/assessment';
import type { RowPrediction } from '../db/stored/delivery';
import type { DeliveryRow } from '../deliveries/predict';

/** As a row of the sheet would be that solves the levels of a programme for a spec: of plain samples, unless a format is stated. */
export function rowLike(
  jobId: string,
  programmeId: string,
  specId: string,
  maxReductionDb: number,
  format = deliveryFormatSchema.parse({ kind: 'wav' }),
): DeliveryRow {
  return {
    id: '',
    jobId,
    programmeId,
    specId,
    format,
    levelMode: { kind: 'solved', maxReductionDb, marginDb: 0 },
    trim: null,
    edges: null,
    receiverId: null,
    position: 0,
    createdAtMs: 0,
    removedAtMs: null,
    prediction: null,
    predictionKey: null,
  };
}

/** Each with its name: a loudness is not named in its own phrase. */
export function phrasesOf(missed: RowPrediction['verdict']['items']): string {
  return missed
    .map(({ name, phrase }) => (phrase.startsWith(lowerName(name)) ? phrase : `${lowerName(name)} ${phrase}`))
    .join('; ');
}
