/** Windows that slide over the nodes of a gain reduction curve, none of which is less than 0. Outside of it, all is 0. */

/**
 * Greatest value from `before` places before each to `behind` places behind it: from the greatest of what a window has of
 * two neighbouring stretches of its own length (van Herk, Pattern Recognition Letters 13 (1992), from memory).
 */
export function slidingMax(values: Float64Array, before: number, behind: number): Float64Array {
  const { length } = values;
  const width = before + behind + 1;
  // With a window of nothing at either end, so that no window reaches beyond.
  const padded = new Float64Array(Math.ceil((length + width) / width) * width + width);
  padded.set(values, before);
  const greatest = new Float64Array(length);
  const ahead = new Float64Array(width + 1);
  for (let start = 0; start < length; start += width) {
    // Of this stretch, from each place to its end; of the next, from its beginning to each place.
    for (let k = width - 1, most = 0; k >= 0; k--) {
      const value = padded[start + k] ?? 0;
      most = Math.max(value, most);
      ahead[k] = most;
    }
    const count = Math.min(length - start, width);
    for (let k = 0, most = 0; k < count; k++) {
      const own = ahead[k] ?? 0;
      greatest[start + k] = Math.max(own, most);
      const value = padded[start + width + k] ?? 0;
      most = Math.max(value, most);
    }
  }
  return greatest;
}

/** Least value likewise; near the ends that is 0. */
export function slidingMin(values: Float64Array, before: number, behind: number): Float64Array {
  const { length } = values;
  const width = before + behind + 1;
  const padded = new Float64Array(Math.ceil((length + width) / width) * width + width);
  padded.set(values, before);
  const least = new Float64Array(length);
  const ahead = new Float64Array(width + 1);
  for (let start = 0; start < length; start += width) {
    for (let k = width - 1, low = Number.POSITIVE_INFINITY; k >= 0; k--) {
      const value = padded[start + k] ?? 0;
      low = Math.min(value, low);
      ahead[k] = low;
    }
    const count = Math.min(length - start, width);
    for (let k = 0, low = Number.POSITIVE_INFINITY; k < count; k++) {
      const own = ahead[k] ?? 0;
      least[start + k] = Math.min(own, low);
      const value = padded[start + width + k] ?? 0;
      low = Math.min(value, low);
    }
  }
  return least;
}

/** Mean of an odd number of values around each, those outside counted as the nearest within. */
export function slidingMean(values: Float64Array, width: number): Float64Array {
  const half = (width - 1) / 2;
  const { length } = values;
  if (length === 0 || half === 0) return values.slice();
  const means = new Float64Array(length);
  const first = values[0] ?? 0;
  const last = values[length - 1] ?? 0;
  let sum = 0;
  for (let i = -half; i <= half; i++) sum += i < 0 ? first : i < length ? (values[i] ?? 0) : last;
  for (let i = 0; i < length; i++) {
    means[i] = sum / width;
    const entering = i + half + 1;
    const leaving = i - half;
    sum += (entering < length ? (values[entering] ?? 0) : last) - (leaving < 0 ? first : (values[leaving] ?? 0));
  }
  return means;
}
