/** Sound tracks of a file, put together to programmes, as people write them: `1+2,3-8`. */

/**
 * @returns the tracks of each programme, counted from 1; undefined where the text names none, or one of them twice
 */
export function parseTrackLists(text: string): number[][] | undefined {
  const lists = text.split(',').map((list) =>
    list.split('+').flatMap((part) => {
      const [, first, last = first] = /^\s*([1-9]\d{0,2})(?:-([1-9]\d{0,2}))?\s*$/.exec(part) ?? [];
      const [from, to] = [Number(first), Number(last)];
      return from <= to ? Array.from({ length: to - from + 1 }, (_, i) => from + i) : [Number.NaN];
    }),
  );
  const numbers = lists.flat();
  return numbers.some(Number.isNaN) || new Set(numbers).size < numbers.length ? undefined : lists;
}

/** Of one programme: `1+2`, `3-8`. */
export function trackListText(numbers: readonly number[]): string {
  const [first = 0] = numbers;
  const isRun = numbers.length > 2 && numbers.every((number, i) => number === first + i);
  return isRun ? `${first}-${numbers.at(-1)}` : numbers.join('+');
}
