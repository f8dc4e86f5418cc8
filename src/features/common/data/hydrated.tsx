import { dehydrate, HydrationBoundary, QueryClient, type QueryKey } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { CatchUp } from './live-tasks';

/** What a page was made with, by its key, so that nothing of it is asked for a second time. */
export function known<T>({ queryKey }: { queryKey: QueryKey }, data: T): [QueryKey, T] {
  return [queryKey, data];
}

/** A page with the data that it was made with, as of an event that was there before they were read. */
export function Hydrated({
  asOf,
  data,
  children,
}: {
  asOf: number;
  data: readonly [QueryKey, unknown][];
  children: ReactNode;
}) {
  const client = new QueryClient();
  // As it would come over the wire.
  for (const [key, value] of data) client.setQueryData(key, JSON.parse(JSON.stringify(value)));
  return (
    <>
      <HydrationBoundary state={dehydrate(client)}>{children}</HydrationBoundary>
      {/* Behind the data, so that they are there. */}
      <CatchUp asOf={asOf} />
    </>
  );
}
