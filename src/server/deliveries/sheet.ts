import { isDeepStrictEqual } from 'node:util';
import { eq } from 'drizzle-orm';
import { treatedProgramme } from '@/core/delivery/compose';
import { DEFAULT_TEMPLATE, type NameFields } from '@/core/delivery/file-name';
import {
  type DeliveryFormat,
  describeFormat,
  type FormatProblem,
  formatProblems,
  type ResolvedFormat,
  resolveFormat,
} from '@/core/delivery/format';
import type { LevelMode } from '@/core/delivery/row';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import { NO_TAGS } from '@/core/file-formats/tags';
import type { Spec } from '@/core/spec/spec';
import type { Trim } from '@/core/treatment/steps/trim';
import type { ServerContext } from '../context';
import { deliveries } from '../db/schema';
import type { RowPrediction } from '../db/stored/delivery';
import { type DeliveryView, viewDeliveries } from '../jobs/delivery-view';
import { jobOf } from '../jobs/jobs';
import { listReceivers, type ReceiverView } from '../receivers/receivers';
import { type TransferView, transferKeyOf, viewTransfers } from '../receivers/transfer-view';
import { nameFields, trackNumbers } from './names';
import { type DeliveryRow, factsOfEach, type RowFacts } from './predict';
import { keyOf, knownPrediction, missingEdgesOf, rowsOf, rowsOfProgramme } from './rows';
import { deliveryTargets } from './targets';
import { listTemplates, type TemplateView } from './templates';

/** A row of the sheet: what is to be handed over, and what has come of it. */
export interface RowView {
  id: string;
  programmeId: string;
  title: string;
  /** As it is now. */
  spec: Spec;
  format: DeliveryFormat;
  resolved: ResolvedFormat;
  formatText: string;
  nameFields: NameFields;
  extension: string;
  /** What keeps it from being written. */
  problem: FormatProblem | null;
  levelMode: LevelMode;
  trim: Trim | null;
  /** Its edges are its own, not those of its programme. */
  hasOwnEdges: boolean;
  /** Room tone can be added where its spec asks for more than there is. */
  canAddEdges: boolean;
  /** Another row, further up, asks for the very same. */
  isTwin: boolean;
  /** Null until it is asked for. */
  prediction: RowPrediction | null;
  /** The newest that was not thrown away. */
  delivery: DeliveryView | null;
  /** Where it is sent once it is verified; null where it is kept here. */
  receiver: { id: string; name: string } | null;
  /** On its way there, or arrived. */
  transfer: TransferView | null;
  /** That was written from other settings than those that hold now. */
  isStale: boolean;
}

export interface SheetView {
  rows: RowView[];
  templates: TemplateView[];
  nameTemplate: string;
  /** Files that no row speaks of any more: of rows that were written again or taken off. */
  others: DeliveryView[];
  /** How many programmes can be handed over: those that are measured. */
  measured: number;
}

/**
 * The hand-over sheet of a job, or of one of its programmes, as far as it is known without working anything out. Throws
 * `not-found`.
 */
export function viewSheet(server: ServerContext, jobId: string, programmeId: string | null = null): SheetView {
  const job = jobOf(server, jobId);
  const mine = programmeId === null ? eq(deliveries.jobId, jobId) : eq(deliveries.programmeId, programmeId);
  const written = [...viewDeliveries(server, mine).values()].flat();
  const shown = new Set<string>();
  const receivers = listReceivers(server);
  const transfers = viewTransfers(
    server,
    written.map(({ id }) => id),
  );
  const all = programmeId === null ? rowsOf(server, jobId) : rowsOfProgramme(server, programmeId);
  const facts = factsOfEach(server, all);
  const tracks = trackNumbers(server, jobId);
  const kept = written.filter(({ isDiscarded }) => !isDiscarded).reverse();
  const newest = new Map(kept.map((delivery) => [delivery.rowId ?? '', delivery]));
  const known = { newest, receivers, transfers, twins: twinsOf(all), jobName: job.name, tracks };
  const rows = all.flatMap((row) => {
    const about = facts.get(row.id);
    const view = about && viewRow(server, row, about, known);
    if (view?.delivery) shown.add(view.delivery.id);
    return view ?? [];
  });
  return {
    rows,
    templates: listTemplates(server),
    nameTemplate: job.nameTemplate ?? DEFAULT_TEMPLATE,
    measured: deliveryTargets(server, jobId, programmeId).length,
    others: written.filter(({ id, written: file }) => file !== null && !shown.has(id)),
  };
}

/** Rows that ask for the very same as one before them. */
function twinsOf(rows: readonly DeliveryRow[]): Set<string> {
  const asked = new Set<string>();
  const twins = new Set<string>();
  for (const row of rows) {
    const key = JSON.stringify([row.programmeId, keyOf(row), row.trim, row.edges]);
    if (asked.has(key)) twins.add(row.id);
    asked.add(key);
  }
  return twins;
}

/** Undefined of a row whose programme was taken out. */
function viewRow(
  server: ServerContext,
  row: DeliveryRow,
  facts: RowFacts,
  known: {
    /** The newest by row that was not thrown away. */
    newest: ReadonlyMap<string, DeliveryView>;
    receivers: readonly ReceiverView[];
    transfers: ReadonlyMap<string, TransferView>;
    /** Ids of rows that ask for what another has asked for before. */
    twins: ReadonlySet<string>;
    jobName: string;
    /** Which of the job each programme is. */
    tracks: ReadonlyMap<string, number>;
  },
): RowView | undefined {
  if (facts.programme.removedAtMs !== null) return undefined;
  const { programme, source, spec, treatment, version } = facts;
  const treated = treatedProgramme(treatment, source.format, row.format);
  const resolved = resolveFormat(row.format, treated);
  const prediction = knownPrediction(server, row, facts) ?? null;
  const delivery = known.newest.get(row.id) ?? null;
  const receiver = known.receivers.find(({ id }) => id === row.receiverId) ?? null;
  const transfer = delivery && receiver ? known.transfers.get(transferKeyOf(delivery.id, receiver.id)) : undefined;
  return {
    receiver: receiver && { id: receiver.id, name: receiver.name },
    transfer: transfer ?? null,
    id: row.id,
    programmeId: programme.id,
    title: programme.title,
    spec,
    resolved,
    prediction,
    delivery,
    format: row.format,
    levelMode: row.levelMode,
    trim: row.trim,
    hasOwnEdges: row.edges !== null,
    canAddEdges: prediction !== null && missingEdgesOf(server, row, prediction, {}, facts) !== undefined,
    isTwin: known.twins.has(row.id),
    formatText: describeFormat(resolved),
    nameFields: nameFields(
      { title: programme.title, job: known.jobName, track: known.tracks.get(programme.id) ?? 1 },
      row.specId,
      resolved,
      version?.version ?? 1,
    ),
    extension: FILE_FORMATS[resolved.kind].extensions[0],
    problem: formatProblems(row.format, treated)[0] ?? null,
    isStale:
      delivery !== null &&
      (isOfOther(delivery, source.sha256) ||
        (prediction !== null && !(isAsWritten(delivery, prediction) && saysAsMuch(delivery, programme)))),
  };
}

/** Whether what was written was made from another source than its programme has now. */
function isOfOther({ sourceSha256 }: DeliveryView, sha256: string): boolean {
  return sourceSha256 !== null && sourceSha256 !== sha256;
}

/** Whether a file says of itself what it would say now; of one that nobody knows that of, it does. */
function saysAsMuch({ said }: DeliveryView, { tags, cover, timeCode }: RowFacts['programme']): boolean {
  return !said || isDeepStrictEqual(said, { tags: tags ?? NO_TAGS, coverSha256: cover?.sha256 ?? null, timeCode });
}

/** Whether what was written is what would be written now. */
function isAsWritten(delivery: DeliveryView, { spec, format, treatment }: RowPrediction): boolean {
  const asked = JSON.parse(JSON.stringify({ spec, format, treatment }));
  return isDeepStrictEqual(delivery.asked, asked);
}
