import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query';
import type { Part } from '@/server/jobs/programme-list';
import { PART_ROWS, type PartQuery } from './queries';

/** Rows of a long list, as far as they are there. */
interface Rows<Row> {
  total: number;
  /** Undefined of a row that is still to come. */
  row(index: number): Row | undefined;
}

/**
 * The parts of a long list that are looked at.
 *
 * @param queryOf the query of a part
 * @param shown first and last index of what is looked at
 */
export function useParts<Row, P extends Part<Row>>(
  queryOf: (part: number) => PartQuery<P>,
  shown: { first: number; last: number },
): Rows<Row> {
  const firstPart = Math.floor(shown.first / PART_ROWS);
  const parts = Array.from(
    { length: Math.floor(Math.max(shown.first, shown.last) / PART_ROWS) - firstPart + 1 },
    (_, i) => firstPart + i,
  );
  // In another order, what stood there before stands until it is there.
  const results = useQueries({
    queries: parts.map((part) => ({ ...queryOf(part), placeholderData: keepPreviousData })),
  });
  const loaded = results.flatMap(({ data }) => data ?? []);
  const [part] = loaded;
  return {
    total: part?.total ?? 0,
    row: (index) => {
      const own = loaded.find(({ offset, rows }) => index >= offset && index < offset + rows.length);
      return own?.rows[index - own.offset];
    },
  };
}

/** Every row of a long list, as far as they are there. */
export function useAllRows<Row, P extends Part<Row>>(queryOf: (part: number) => PartQuery<P>): Row[] {
  const { data: first } = useQuery(queryOf(0));
  const parts = Math.ceil((first?.total ?? 0) / PART_ROWS);
  const others = useQueries({ queries: Array.from({ length: Math.max(0, parts - 1) }, (_, i) => queryOf(i + 1)) });
  return [first, ...others.map(({ data }) => data)].flatMap((part) => part?.rows ?? []);
}
