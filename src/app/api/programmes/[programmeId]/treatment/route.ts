import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { forecastCurrent } from '@/server/measure/limiting';
import { changeTreatment, treatmentStateOf } from '@/server/treatments/treatments';

export const PATCH = serve(OPERATIONS.changeTreatment, async ({ server, params, body }) => {
  const programmeId = params.programmeId as string;
  changeTreatment(server, programmeId, body);
  await forecastCurrent(server, programmeId);
  return treatmentStateOf(server, programmeId);
});
