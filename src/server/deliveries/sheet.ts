import { isDeepStrictEqual } from 'node:util';
import { eq } from 'drizzle-orm';
import { treatedProgramme } from '@/core/delivery/compose';
import type { Cover } from '@/core/delivery/cover';
import { KIND_FACTS } from '@/core/delivery/file-kinds';
import { DEFAULT_TEMPLATE, type NameFields } from '@/core/delivery/file-name';
import {
  type DeliveryFormat,
  describeFormat,
  type FormatProblem,
  formatProblems,
  type SettledFormat,
  settleFormat,
} from '@/core/delivery/format';
import type { DeliveryWay } from '@/core/delivery/line';
import { NO_TAGS, type Tags } from '@/core/delivery/tags';
import { isAppError } from '@/core/errors/app-error';
import type { Spec } from '@/core/spec/spec';
import type { Keep } from '@/core/treatment/steps/keep';
import type { ServerContext } from '../context';
import { jobs, type LinePrediction } from '../db/schema';
import type { DeliveryView, JobView } from '../jobs/jobs';
import { listReceivers, type ReceiverView } from '../receivers/receivers';
import { type SendingView, sendingKeyOf, viewSendings } from '../receivers/sendings';
import { currentTreatment } from '../treatments/treatments';
import { keyOf, knownPrediction, linesOf, listSets, missingEdgesOf, type SetView } from './lines';
import { nameFieldsOf } from './names';
import { factsOf, type Line } from './predict';

/** A row of the sheet: what is to be handed over, and what has come of it. */
export interface LineView {
  id: string;
  programmeId: string;
  title: string;
  /** As it is now. */
  spec: Spec;
  format: DeliveryFormat;
  settled: SettledFormat;
  formatText: string;
  nameFields: NameFields;
  extension: string;
  /** What keeps it from being written. */
  problem: FormatProblem | null;
  way: DeliveryWay;
  keep: Keep | null;
  /** Its edges are its own, not those of its programme. */
  hasOwnEdges: boolean;
  /** Room tone can be added where its spec asks for more than there is. */
  canAddEdges: boolean;
  /** Another row, further up, asks for the very same. */
  isTwin: boolean;
  /** Null until it is asked for. */
  prediction: LinePrediction | null;
  /** The newest that was not thrown away. */
  delivery: DeliveryView | null;
  /** Where it is sent once it is verified; null where it is kept here. */
  receiver: { id: string; name: string } | null;
  /** On its way there, or arrived. */
  sending: SendingView | null;
  /** That was written from other settings than those that hold now. */
  isStale: boolean;
}

export interface SheetView {
  lines: LineView[];
  sets: SetView[];
  nameTemplate: string;
  /** Files that no row speaks of any more: of rows that were written again or taken off. */
  others: DeliveryView[];
}

/** The hand-over sheet of a job, as far as it is known without working anything out. */
export function viewSheet(server: ServerContext, job: JobView): SheetView {
  const written = job.programmes.flatMap(({ deliveries }) => deliveries);
  const shown = new Set<string>();
  const receivers = listReceivers(server);
  const sendings = viewSendings(
    server,
    written.map(({ id }) => id),
  );
  const all = linesOf(server, job.id);
  const twins = twinsOf(all);
  const lines = all.flatMap((line) => {
    const view = viewLine(server, line, { written, receivers, sendings, twins });
    if (view?.delivery) shown.add(view.delivery.id);
    return view ?? [];
  });
  const row = server.db.select().from(jobs).where(eq(jobs.id, job.id)).get();
  return {
    lines,
    sets: listSets(server),
    nameTemplate: row?.nameTemplate ?? DEFAULT_TEMPLATE,
    others: written.filter(({ id, written: file }) => file !== null && !shown.has(id)),
  };
}

/** Rows that ask for the very same as one before them. */
function twinsOf(lines: readonly Line[]): Set<string> {
  const asked = new Set<string>();
  const twins = new Set<string>();
  for (const line of lines) {
    const key = JSON.stringify([line.programmeId, keyOf(line), line.keep, line.edges]);
    if (asked.has(key)) twins.add(line.id);
    asked.add(key);
  }
  return twins;
}

/** Undefined of a row whose programme was taken out, or whose spec was put away. */
function viewLine(
  server: ServerContext,
  line: Line,
  known: {
    written: readonly DeliveryView[];
    receivers: readonly ReceiverView[];
    sendings: ReadonlyMap<string, SendingView>;
    /** Ids of rows that ask for what another has asked for before. */
    twins: ReadonlySet<string>;
  },
): LineView | undefined {
  const facts = ((): ReturnType<typeof factsOf> | undefined => {
    try {
      return factsOf(server, line);
    } catch (error) {
      if (isAppError(error, 'unknown-spec') || isAppError(error, 'not-found')) return undefined;
      throw error;
    }
  })();
  if (!facts || facts.programme.removedAtMs !== null) return undefined;
  const { programme, source, spec, treatment } = facts;
  const treated = treatedProgramme(treatment, source.format, line.format);
  const settled = settleFormat(line.format, treated);
  const prediction = knownPrediction(server, line) ?? null;
  const delivery = known.written.find(({ lineId, isDiscarded }) => lineId === line.id && !isDiscarded) ?? null;
  const receiver = known.receivers.find(({ id }) => id === line.receiverId) ?? null;
  const sending = delivery && receiver ? known.sendings.get(sendingKeyOf(delivery.id, receiver.id)) : undefined;
  return {
    receiver: receiver && { id: receiver.id, name: receiver.name },
    sending: sending ?? null,
    ...{ id: line.id, programmeId: programme.id, title: programme.title, spec, settled, prediction, delivery },
    ...{ format: line.format, way: line.way, keep: line.keep },
    hasOwnEdges: line.edges !== null,
    canAddEdges: prediction !== null && missingEdgesOf(server, line, prediction) !== undefined,
    isTwin: known.twins.has(line.id),
    formatText: describeFormat(settled),
    nameFields: nameFieldsOf(server, line, settled, currentTreatment(server, programme.id)?.version ?? 1),
    extension: KIND_FACTS[settled.kind].extensions[0],
    problem: formatProblems(line.format, treated)[0] ?? null,
    isStale:
      delivery !== null &&
      prediction !== null &&
      !(isAsWritten(delivery, prediction) && saysAsMuch(delivery, programme)),
  };
}

/** Whether a file says of itself what it would say now; of one that nobody knows that of, it does. */
function saysAsMuch({ said }: DeliveryView, { tags, cover }: { tags: Tags | null; cover: Cover | null }): boolean {
  return said === null || isDeepStrictEqual(said, { tags: tags ?? NO_TAGS, coverSha256: cover?.sha256 ?? null });
}

/** Whether what was written is what would be written now. */
function isAsWritten(delivery: DeliveryView, { spec, format, treatment }: LinePrediction): boolean {
  const asked = JSON.parse(JSON.stringify({ spec, format, treatment }));
  return isDeepStrictEqual(delivery.asked, asked);
}
