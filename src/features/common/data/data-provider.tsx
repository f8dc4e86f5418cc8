'use client';

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { type ReactNode, useState } from 'react';
import { RequestError } from './fetch-json';

const MOST_TRIES = 3;
const FIRST_RETRY_MS = 400;

/**
 * The data of the pages. The server says what has changed, so that nothing grows old by itself; what could not be reached is
 * asked for again after a while that is not the same for all.
 */
export function DataProvider({ children }: { children: ReactNode }) {
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: {
          queries: {
            staleTime: Number.POSITIVE_INFINITY,
            refetchOnWindowFocus: false,
            retry: (tries, error) => tries < MOST_TRIES && isWorthAnotherTry(error),
            retryDelay: (tries) => FIRST_RETRY_MS * 2 ** tries * (0.5 + Math.random()),
          },
        },
      }),
  );
  return <QueryClientProvider client={client}>{children}</QueryClientProvider>;
}

function isWorthAnotherTry(error: unknown): boolean {
  return error instanceof RequestError && error.record.code === 'server-unreached';
}
