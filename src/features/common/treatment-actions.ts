'use server';

import { setTimeout } from 'node:timers/promises';
import * as z from 'zod';
import { roundGain } from '@/core/treatment/steps/gain';
import { type Treatment, treatmentFields } from '@/core/treatment/treatment';
import { answer } from '@/server/http/action';
import { forecastCurrent } from '@/server/measure/limiting';
import { getServer } from '@/server/server';
import {
  changeTreatment,
  checkSeen,
  markHeard,
  nameVersion,
  stepTreatment,
  type TreatmentState,
  treatmentStateOf,
} from '@/server/treatments/treatments';
import type { ActionResult } from './action-result';

const programmeInput = z.string().min(1).max(64);
const versionInput = z.int().nonnegative();
const editInput = z.int().nullable().optional();
/** Steps that are left out stay as they are. */
const stepsInput = z.partialRecord(z.enum(Object.keys(treatmentFields.shape) as (keyof Treatment)[]), z.unknown());

/** What takes longer than this to be forecast, as where a long programme is prepared anew, is shown when it is next asked for. */
const SOON_MS = 1500;

function forecastSoon(server: ReturnType<typeof getServer>, programmeId: string): Promise<void> {
  const forecast = forecastCurrent(server, programmeId);
  forecast.catch(() => undefined);
  return Promise.race([forecast, setTimeout(SOON_MS)]);
}

/**
 * Keeps steps of a programme's treatment, and answers with what it is then.
 *
 * @param seenEditId where whoever changes it stands among its edits; what another window has set since is not overwritten
 */
export async function saveSteps(
  programmeId: string,
  steps: Partial<Treatment>,
  seenEditId?: number | null,
): Promise<ActionResult<TreatmentState>> {
  return answer(async () => {
    const id = programmeInput.parse(programmeId);
    const { gainDb, ...others } = stepsInput.parse(steps) as Partial<Treatment>;
    const server = getServer();
    checkSeen(server, id, editInput.parse(seenEditId));
    changeTreatment(server, id, gainDb === undefined ? others : { ...others, gainDb: roundGain(gainDb) });
    await forecastSoon(server, id);
    return treatmentStateOf(server, id);
  });
}

/** Goes one edit of a programme's treatment back, or forward again. */
export async function stepEdit(
  programmeId: string,
  direction: 'undo' | 'redo',
  seenEditId?: number | null,
): Promise<ActionResult<TreatmentState>> {
  return answer(async () => {
    const id = programmeInput.parse(programmeId);
    const server = getServer();
    checkSeen(server, id, editInput.parse(seenEditId));
    stepTreatment(server, id, z.enum(['undo', 'redo']).parse(direction));
    await forecastSoon(server, id);
    return treatmentStateOf(server, id);
  });
}

/** Notes that a version was listened to. */
export async function noteHeard(programmeId: string, version: number): Promise<ActionResult<null>> {
  return answer(() => {
    markHeard(getServer(), programmeInput.parse(programmeId), versionInput.parse(version));
    return null;
  });
}

export async function renameVersion(programmeId: string, version: number, name: string): Promise<ActionResult<null>> {
  return answer(() => {
    const shortName = z.string().trim().max(120).parse(name);
    nameVersion(getServer(), programmeInput.parse(programmeId), versionInput.parse(version), shortName);
    return null;
  });
}
