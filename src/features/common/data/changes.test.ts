import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { refreshArrived, refreshSheet, refreshTouched } from './changes';
import { programmeQuery, programmesQuery, sheetQuery } from './queries';

const JOB = 'job';
const touched = (programmeId: string, jobId = JOB) => [{ jobId, programmeId }];
const part = (ids: readonly string[]) => ({
  total: ids.length,
  offset: 0,
  rows: ids.map((id) => ({ id })),
});

/** What is known of a job: two parts of a list, and two programmes. */
function known() {
  const client = new QueryClient();
  client.setQueryData(programmesQuery(JOB, 'spec', 0).queryKey, part(['a', 'b']));
  client.setQueryData(programmesQuery(JOB, 'spec', 1).queryKey, part(['c', 'd']));
  client.setQueryData(['programme', 'a'], { id: 'a' });
  client.setQueryData(['programme', 'c'], { id: 'c' });
  return client;
}
const stale = (client: QueryClient) =>
  client
    .getQueryCache()
    .getAll()
    .filter(({ state }) => state.isInvalidated)
    .map(({ queryKey }) => queryKey.join(' '))
    .sort();

test('a task makes stale what shows its programme, and nothing else', async () => {
  const client = known();
  await refreshTouched(client, JOB, touched('c'));
  expect(stale(client)).toEqual(['job job programmes spec 1', 'programme c']);
});

test('a line-up is read again once one of its programmes has changed', async () => {
  const client = known();
  const lineUp = (id: string, programmeIds: string[]) =>
    client.setQueryData<object>(['job', JOB, 'line-up-reading', id, 'spec'], {
      lineUp: { members: programmeIds.map((programmeId) => ({ programmeId })) },
    });
  lineUp('one', ['a', 'c']);
  lineUp('other', ['b']);
  await refreshTouched(client, JOB, touched('c'));
  expect(stale(client)).toEqual(['job job line-up-reading one spec', 'job job programmes spec 1', 'programme c']);
});

test('one of another job makes nothing stale', async () => {
  const client = known();
  await refreshTouched(client, JOB, touched('a', 'other'));
  await refreshArrived(client, JOB, touched('new', 'other'));
  expect(stale(client)).toEqual([]);
});

test('a programme that no list knows makes all lists stale, one that they know none', async () => {
  const client = known();
  await refreshArrived(client, JOB, touched('d'));
  expect(stale(client)).toEqual([]);
  await refreshArrived(client, JOB, touched('new'));
  expect(stale(client)).toEqual(['job job programmes spec 0', 'job job programmes spec 1']);
});

test('a whole sheet takes the rows of one programme over where they stood, new ones behind them', async () => {
  const client = new QueryClient();
  const row = (id: string, programmeId: string, text = '') => ({ id, programmeId, text });
  const whole = sheetQuery(JOB, null);
  const of = (rows: object[], others: object[] = []) => ({ rows, others, sets: [], nameTemplate: '', measured: 2 });
  client.setQueryData<object>(
    whole.queryKey,
    of([row('1', 'a'), row('2', 'b'), row('3', 'a'), row('4', 'b')], [{ id: 'x', programmeId: 'b' }]),
  );
  const leave = new QueryObserver(client, { ...whole, enabled: false }).subscribe(() => undefined);
  const { fetch } = globalThis;
  globalThis.fetch = async () =>
    Response.json(of([row('3', 'a', 'changed'), row('5', 'a', 'new')], [{ id: 'y', programmeId: 'a' }]));
  try {
    await refreshSheet(client, JOB, 'a');
  } finally {
    globalThis.fetch = fetch;
    leave();
  }
  const sheet = client.getQueryData(whole.queryKey);
  expect(sheet?.rows).toEqual([row('2', 'b'), row('3', 'a', 'changed'), row('4', 'b'), row('5', 'a', 'new')]);
  expect(sheet?.others.map(({ id }) => id)).toEqual(['x', 'y']);
  expect(programmeQuery('a').queryKey).toEqual(['programme', 'a']);
});

test('an answer that was asked for before a change neither stands for it, nor comes after it', async () => {
  const client = new QueryClient();
  const sheet = (rows: unknown[]) => ({ rows, others: [] });
  const [own, whole] = [sheetQuery(JOB, 'a'), sheetQuery(JOB, null)];
  client.setQueryData<object>(own.queryKey, sheet([]));
  client.setQueryData<object>(whole.queryKey, sheet([]));
  const leave = [own, whole].map((query) =>
    new QueryObserver(client, { ...query, staleTime: Infinity }).subscribe(() => {}),
  );
  const old: (() => void)[] = [];
  let now: object = sheet([]);
  const { fetch } = globalThis;
  globalThis.fetch = (() => {
    const body = JSON.stringify(now);
    const isOld = old.length < 2;
    // The first two answers come late.
    return new Promise<Response>((resolve) =>
      isOld ? old.push(() => resolve(new Response(body))) : resolve(new Response(body)),
    );
  }) as typeof fetch;
  try {
    const begun = [own, whole].map(({ queryKey }) => client.invalidateQueries({ queryKey, exact: true }));
    now = sheet([{ id: '1', programmeId: 'a' }]);
    await refreshSheet(client, JOB, 'a');
    for (const answer of old) answer();
    await Promise.all(begun);
    for (const { queryKey } of [own, whole]) expect(client.getQueryData(queryKey)).toMatchObject(now);
  } finally {
    globalThis.fetch = fetch;
    for (const end of leave) end();
  }
});
