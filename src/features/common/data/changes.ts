import type { Query, QueryClient } from '@tanstack/react-query';
import type { BookPreview } from '@/server/assemblies/book';
import type { FilmView } from '@/server/assemblies/film';
import type { SheetView } from '@/server/deliveries/sheet';
import type { LineUpReadingView } from '@/server/line-ups/line-up-reading';
import type { Touched } from '@/server/tasks/touched';
import { programmeQuery, sheetQuery } from './queries';

/** Has whatever is shown of a job fetched again: somebody has set something in it. */
export function refreshJob(client: QueryClient, jobId: string): Promise<void> {
  return client.invalidateQueries({
    predicate: ({ queryKey: [kind, id] }) => kind === 'programme' || (kind === 'job' && id === jobId),
  });
}

/**
 * Has what was touched fetched again, as far as it is shown: the programme itself, the parts of lists that it is in, and its rows of the
 * sheet; all, where specs or receivers were touched.
 */
export async function refreshTouched(client: QueryClient, jobId: string, all: readonly Touched[]): Promise<void> {
  if (all.some((own) => 'isShared' in own)) return client.invalidateQueries();
  const touched = all.filter((own) => 'jobId' in own && own.jobId === jobId);
  if (touched.some((own) => 'isEdited' in own)) return refreshJob(client, jobId);
  const ids = idsOf(jobId, touched);
  await Promise.all([
    ...[...ids].map((id) => client.invalidateQueries({ queryKey: programmeQuery(id).queryKey })),
    client.invalidateQueries({
      // What it is called is nothing that a task changes.
      predicate: (query) =>
        query.queryKey[2] !== 'names' && isOfList(query, jobId) && shownIn(query).some((id) => ids.has(id)),
    }),
    client.invalidateQueries({ predicate: (query) => isOfLineUp(query, jobId, ids) }),
    ...[...ids].map((id) => refreshSheet(client, jobId, id)),
    ...(touched.length > 0 ? [client.invalidateQueries({ queryKey: ['job', jobId, 'batches'] })] : []),
    ...(touched.some((own) => 'isCopiedOut' in own)
      ? [client.invalidateQueries({ queryKey: ['job', jobId, 'copies'] })]
      : []),
    ...touched.flatMap((own) =>
      'lineUpId' in own ? [client.invalidateQueries({ queryKey: ['job', jobId, 'assemblies', own.lineUpId] })] : [],
    ),
  ]);
}

/** Has the lists fetched again where a task has begun for a programme that they don't know: it has come meanwhile. */
export async function refreshArrived(client: QueryClient, jobId: string, touched: readonly Touched[]): Promise<void> {
  const lists = client.getQueryCache().findAll({ predicate: (query) => isOfList(query, jobId) });
  const known = new Set(lists.flatMap(shownIn));
  if ([...idsOf(jobId, touched)].every((id) => known.has(id))) return;
  await client.invalidateQueries({ queryKey: ['job', jobId] });
}

function idsOf(jobId: string, touched: readonly Touched[]): Set<string> {
  return new Set(touched.flatMap((own) => ('programmeId' in own && own.jobId === jobId ? [own.programmeId] : [])));
}

function isOfList({ queryKey: [kind, id, what] }: Query, jobId: string): boolean {
  return kind === 'job' && id === jobId && (what === 'programmes' || what === 'taken-in' || what === 'names');
}

const OF_LINE_UP: ReadonlySet<unknown> = new Set(['line-up-reading', 'book', 'film']);

/** Whether a line-up's reading, the folder that a book would be, or a film has any of some programmes in it. */
function isOfLineUp({ queryKey: [kind, id, what], state }: Query, jobId: string, ids: ReadonlySet<string>): boolean {
  if (kind !== 'job' || id !== jobId || !OF_LINE_UP.has(what)) return false;
  const { lineUp, chapters, sounds } = (state.data ?? {}) as Partial<LineUpReadingView & BookPreview & FilmView>;
  return (lineUp?.members ?? chapters ?? sounds ?? []).some(({ programmeId }) => ids.has(programmeId));
}

/** Ids of the programmes in a part of a list. */
function shownIn({ state }: Query): string[] {
  const data = state.data as { id: string }[] | { rows: { id: string }[] } | undefined;
  const rows = Array.isArray(data) ? data : (data?.rows ?? []);
  return rows.map(({ id }) => id);
}

/** Fetches the rows of one programme again, where its sheet, or that of the whole job, is shown. */
export async function refreshSheet(client: QueryClient, jobId: string, programmeId: string): Promise<void> {
  const [own, whole] = [sheetQuery(jobId, programmeId), sheetQuery(jobId, null)];
  const isShown = ({ queryKey }: { queryKey: readonly unknown[] }) =>
    (client.getQueryCache().find({ queryKey })?.getObserversCount() ?? 0) > 0;
  if (!isShown(own) && !isShown(whole)) {
    await Promise.all([own, whole].map(({ queryKey }) => client.invalidateQueries({ queryKey, exact: true })));
    return;
  }
  // What is on its way was asked for before this changed: it neither stands for what is there now, nor comes after it.
  await client.cancelQueries({ queryKey: own.queryKey, exact: true });
  const fresh = await client.fetchQuery({ ...own, staleTime: 0 });
  const isWholeUnderway = client.isFetching({ queryKey: whole.queryKey, exact: true }) > 0;
  if (isWholeUnderway) await client.cancelQueries({ queryKey: whole.queryKey, exact: true });
  client.setQueryData(whole.queryKey, (before) => before && merged(before, fresh, programmeId));
  if (isWholeUnderway) await client.invalidateQueries({ queryKey: whole.queryKey, exact: true });
}

/** A whole sheet with the rows of one programme as they are now. */
function merged(before: SheetView, fresh: SheetView, programmeId: string): SheetView {
  const at = before.rows.findIndex((row) => row.programmeId === programmeId);
  const isOther = (row: { programmeId: string }) => row.programmeId !== programmeId;
  const rows = before.rows.filter(isOther);
  const knownIds = new Map(fresh.rows.map((row) => [row.id, row]));
  // Each stands where it stood; what is new follows the others of its programme.
  const inPlace = before.rows.flatMap((row) => (isOther(row) ? [row] : (knownIds.get(row.id) ?? [])));
  const added = fresh.rows.filter((row) => !before.rows.some(({ id }) => id === row.id));
  return {
    ...fresh,
    rows: at === -1 ? [...rows, ...fresh.rows] : [...inPlace, ...added],
    others: [...before.others.filter(isOther), ...fresh.others],
  };
}
