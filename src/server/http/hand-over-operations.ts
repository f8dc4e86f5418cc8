/** The hand-over sheet, its rows and their deliveries. */
import * as z from 'zod';
import { certificateSchema } from '@/core/delivery/certificate';
import { OLD_ROW_NAMES, setRowFields } from '@/core/delivery/row';
import { readingOldNames } from '@/core/schema/old-names';
import { someOf } from '@/core/schema/some-of';
import { deliveryAnswer, predictionAnswer, sheetAnswer } from './answers';
import { operation } from './operation';
import { id } from './query';

const asFile = z.object({ as: z.enum(['pdf', 'json']).default('pdf') });

export const HAND_OVER_OPERATIONS = {
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
};
