/** Windows that slide over the nodes of a trace. Outside of it, all is 0. */

/** Greatest value from `before` places before each to `behind` places behind it. */
export function slidingMax(values: Float64Array, before: number, behind: number): Float64Array {
  const greatest = new Float64Array(values.length);
  // Places whose values fall, so that the first is the greatest in view.
  const places = new Int32Array(values.length);
  let first = 0;
  let end = 0;
  let next = 0;
  for (let i = 0; i < values.length; i++) {
    for (const last = Math.min(values.length - 1, i + behind); next <= last; next++) {
      while (end > first && (values[places[end - 1] as number] as number) <= (values[next] as number)) end--;
      places[end++] = next;
    }
    while ((places[first] as number) < i - before) first++;
    greatest[i] = values[places[first] as number] as number;
  }
  return greatest;
}

/** Least value likewise; near the ends that is 0. */
export function slidingMin(values: Float64Array, before: number, behind: number): Float64Array {
  const least = slidingMax(
    values.map((value) => -value),
    before,
    behind,
  ).map((value) => -value);
  least.fill(0, 0, Math.min(least.length, before));
  least.fill(0, Math.max(0, least.length - behind));
  return least;
}

/** Mean of an odd number of values around each, those outside counted as the nearest within. */
export function slidingMean(values: Float64Array, width: number): Float64Array {
  const half = (width - 1) / 2;
  const length = values.length;
  const means = new Float64Array(length);
  if (length === 0) return means;
  const padded = new Float64Array(length + 2 * half + 1);
  padded.fill(values[0] as number, 0, half);
  padded.set(values, half);
  padded.fill(values[length - 1] as number, half + length);
  let sum = 0;
  for (let i = 0; i < width; i++) sum += padded[i] as number;
  for (let i = 0; i < length; i++) {
    means[i] = sum / width;
    sum += (padded[i + width] as number) - (padded[i] as number);
  }
  return means;
}
