/** A small, fast and repeatable source of uniform numbers in [0, 1): mulberry32. */
export function seededRandom(seed: number): () => number {
  let state = seed >>> 0;
  const { imul } = Math;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = imul(t ^ (t >>> 15), t | 1);
    t ^= t + imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
