/** When each of several programmes begins, and when the last one ends. */
export interface PlayOrder {
  starts: number[];
  end: number;
}

/**
 * Programmes one after the other. Lengths and gaps are in one unit: frames of one rate, or seconds.
 *
 * @param gaps what lies behind each programme; negative where the next one begins before it has ended. That of the last counts for nothing
 * @throws {RangeError} where a programme is shorter than its overlaps: it would have to fade out before it has faded in
 */
export function playOrder(lengths: readonly number[], gaps: readonly number[]): PlayOrder {
  const starts: number[] = [];
  let [end, overlapBefore] = [0, 0];
  lengths.forEach((length, i) => {
    const isLast = i === lengths.length - 1;
    const gap = isLast ? 0 : (gaps[i] ?? 0);
    const overlapBehind = Math.max(0, -gap);
    if (overlapBefore + overlapBehind > length) throw new RangeError(`programme ${i + 1} is shorter than its overlaps`);
    const start = end;
    starts.push(start);
    end = start + length + gap;
    overlapBefore = overlapBehind;
  });
  return { starts, end };
}
