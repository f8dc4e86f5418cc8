import { deliveryFormatSchema } from '@/core/delivery/format';
import type { DeliveryRow } from '../deliveries/predict';

/** As a row of the sheet would be that solves the levels of a programme for a spec: of plain samples. */
export function rowLike(jobId: string, programmeId: string, specId: string, maxReductionDb: number): DeliveryRow {
  return {
    id: '',
    jobId,
    programmeId,
    specId,
    format: deliveryFormatSchema.parse({ kind: 'wav' }),
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
