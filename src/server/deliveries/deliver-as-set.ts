import { fittedFormat } from '@/core/delivery/fitted-format';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { missedOf } from '@/core/spec/assessment';
import type { ServerContext } from '../context';
import { programmeOf } from '../measure/limiting';
import { specNamed } from '../specs/specs';
import { addRow, keyOf, predictionOf, rowOf, rowsOfProgramme } from './rows';
import { viewSheet } from './sheet';
import { writeRow } from './write-row';

/**
 * Has a programme written with its current settings, in a file that a spec takes: by the row of the sheet that asks for just that, or by a new one. What
 * would miss the spec is left on the sheet for a person to decide, and what is written already stays.
 *
 * @returns the row
 * @throws `not-found`, `unknown-spec`, or as `writeRow`
 */
export async function deliverAsSet(server: ServerContext, programmeId: string, specId: string): Promise<string> {
  const { jobId } = programmeOf(server, programmeId);
  const wanted = {
    specId,
    format: fittedFormat(deliveryFormatSchema.parse({ kind: 'wav' }), specNamed(server, specId)),
    levelMode: { kind: 'as-set' } as const,
    receiverId: null,
  };
  const known = rowsOfProgramme(server, programmeId).find((row) => row.trim === null && keyOf(row) === keyOf(wanted));
  const { id: rowId } = known ?? addRow(server, { programmeId, ...wanted });
  const { verdict } = await predictionOf(server, rowOf(server, rowId));
  if (missedOf(verdict).length > 0) return rowId;
  const view = viewSheet(server, jobId, programmeId).rows.find(({ id }) => id === rowId);
  if (!view?.delivery?.written?.verdict.inside || view.isStale) await writeRow(server, rowId);
  return rowId;
}
