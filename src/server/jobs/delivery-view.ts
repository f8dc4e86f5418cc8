import { desc, eq, type SQL } from 'drizzle-orm';
import type { ResolvedFormat } from '@/core/delivery/format';
import type { Pass } from '@/core/delivery/next-pass';
import { AppError } from '@/core/errors/app-error';
import type { ReductionFigures } from '@/core/limiter/reduction';
import type { Readings } from '@/core/loudness/readings';
import type { Verdict } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import type { Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { ServerContext } from '../context';
import { deliveries, treatments } from '../db/schema';
import type { DeliveryOutcome } from '../db/stored/delivery';
import { type TaskView, taskOrNull } from '../tasks/view';

export interface DeliveryView {
  id: string;
  fileName: string;
  spec: Spec;
  treatmentVersion: number;
  /** What is done for it, as far as it is known: as it was written in the end. */
  treatment: Treatment;
  programmeId: string;
  /** What it was made from; null of older ones. */
  sourceSha256: string | null;
  /** The row of the sheet that it was written for; null of older ones. */
  rowId: string | null;
  /** Null of older ones: WAV of 24 bits. */
  format: ResolvedFormat | null;
  /** Of the file, or of each channel's. */
  files: { fileName: string; channel: string | null; sizeBytes: number; sha256: string }[];
  /** What it was asked to be, before anything was written. */
  asked: { spec: Spec; format: ResolvedFormat | null; treatment: Treatment | null };
  /** What the file says of itself; null of older ones. */
  said: NonNullable<DeliveryOutcome['said']> | null;
  /** Every time that it was written. */
  passes: Pass[];
  acceptedReason: string | null;
  /** Who has said so, where people sign in. */
  acceptedBy: string | null;
  /** Who has approved the file. */
  approvedBy: string | null;
  isDiscarded: boolean;
  predicted: Readings;
  /** Null until the file is written whole. */
  written: {
    format: AudioFormat;
    readings: Readings;
    verdict: Verdict;
    /** What its limiter took; null where there was none. */
    reduction: ReductionFigures | null;
    sha256: string | null;
    sizeBytes: number;
    atMs: number;
  } | null;
  task: TaskView | null;
}

/** A delivery by itself. Throws `not-found`. */
export function viewDelivery(server: ServerContext, deliveryId: string): DeliveryView {
  const [view] = [...viewDeliveries(server, eq(deliveries.id, deliveryId)).values()].flat();
  if (!view) throw new AppError('not-found', { what: 'delivery' });
  return view;
}

/** By programme, the newest first. */
export function viewDeliveries(server: ServerContext, which: SQL): Map<string, DeliveryView[]> {
  const rows = server.db
    .select()
    .from(deliveries)
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .where(which)
    .orderBy(desc(deliveries.createdAtMs))
    .all();
  const renderTasks = server.queue.latest(
    'render',
    rows.map(({ deliveries: delivery }) => delivery.id),
  );
  const views = new Map<string, DeliveryView[]>();
  for (const { deliveries: delivery, treatments: version } of rows) {
    const { report, verdict, writtenAtMs, outcome, fileName } = delivery;
    const view: DeliveryView = {
      id: delivery.id,
      fileName,
      spec: delivery.spec,
      treatmentVersion: version.version,
      treatment: outcome?.treatment ?? delivery.treatment ?? version.treatment,
      programmeId: delivery.programmeId,
      sourceSha256: delivery.sourceSha256,
      rowId: delivery.rowId,
      format: delivery.format,
      files:
        outcome?.files ??
        (report?.sha256 ? [{ fileName, channel: null, sizeBytes: report.sizeBytes, sha256: report.sha256 }] : []),
      asked: { spec: delivery.spec, format: delivery.format, treatment: delivery.treatment },
      said: outcome?.said ?? null,
      passes: outcome?.passes ?? [],
      acceptedReason: delivery.acceptedReason,
      acceptedBy: delivery.acceptedBy,
      approvedBy: delivery.approvedBy,
      isDiscarded: delivery.discardedAtMs !== null,
      predicted: delivery.predicted,
      written:
        report && verdict && writtenAtMs !== null
          ? {
              format: report.format,
              readings: report.readings,
              verdict,
              reduction: delivery.reduction,
              sha256: report.sha256,
              sizeBytes: report.sizeBytes,
              atMs: writtenAtMs,
            }
          : null,
      task: taskOrNull(renderTasks.get(delivery.id)),
    };
    const list = views.get(delivery.programmeId);
    if (list) list.push(view);
    else views.set(delivery.programmeId, [view]);
  }
  return views;
}
