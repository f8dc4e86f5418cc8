import { dehydrate, HydrationBoundary, QueryClient, type QueryKey } from '@tanstack/react-query';
import type { ReactNode } from 'react';

/** What a page was made with, by its key, so that nothing of it is asked for a second time. */
export function known<T>({ queryKey }: { queryKey: QueryKey }, data: T): [QueryKey, T] {
  return [queryKey, data];
}

/** A page with the data that it was made with. */
export function Hydrated({ data, children }: { data: readonly [QueryKey, unknown][]; children: ReactNode }) {
  const client = new QueryClient();
  // As it would come over the wire.
  for (const [key, value] of data) client.setQueryData(key, JSON.parse(JSON.stringify(value)));
  return <HydrationBoundary state={dehydrate(client)}>{children}</HydrationBoundary>;
}
