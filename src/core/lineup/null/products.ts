/**
 * Sums of products of several signals with each other, of every 100 ms: all that is asked about gains and what they leave is answered from
 * them, without the samples.
 */
export class Products {
  readonly signals: number;
  readonly #size: number;
  readonly #bins: Float64Array[] = [];

  /** @param signals how many there are */
  constructor(signals: number) {
    this.signals = signals;
    this.#size = (signals * (signals + 1)) / 2;
  }

  get bins(): number {
    return this.#bins.length;
  }

  /** @param block of each signal its channels, of one length */
  add(block: readonly (readonly Float32Array[])[]): void {
    const sums = new Float64Array(this.#size);
    for (let i = 0; i < this.signals; i++) {
      for (let j = 0; j <= i; j++) {
        sums[at(i, j)] = dot(block[i] as readonly Float32Array[], block[j] as readonly Float32Array[]);
      }
    }
    this.#bins.push(sums);
  }

  /** Of one 100 ms. */
  of(bin: number, i: number, j: number): number {
    return this.#bins[bin]?.[at(i, j)] ?? 0;
  }

  /** Over some 100 ms: a symmetric matrix. */
  sum(bins: Iterable<number>): number[][] {
    const sums = new Float64Array(this.#size);
    for (const bin of bins)
      this.#bins[bin]?.forEach((value, k) => {
        sums[k] = (sums[k] ?? 0) + value;
      });
    return Array.from({ length: this.signals }, (_, i) =>
      Array.from({ length: this.signals }, (__, j) => sums[at(i, j)] ?? 0),
    );
  }
}

/** Where a pair stands in the lower half of the matrix. */
function at(i: number, j: number): number {
  return i < j ? (j * (j + 1)) / 2 + i : (i * (i + 1)) / 2 + j;
}

function dot(a: readonly Float32Array[], b: readonly Float32Array[]): number {
  let sum = 0;
  for (let c = 0; c < a.length; c++) {
    const [x, y] = [a[c] as Float32Array, b[c] as Float32Array];
    for (let n = 0; n < x.length; n++) sum += (x[n] ?? 0) * (y[n] ?? 0);
  }
  return sum;
}

/** Energy of a weighted sum of signals: wᵀ·P·w. */
export function energyOf(products: readonly (readonly number[])[], weights: readonly number[]): number {
  let sum = 0;
  weights.forEach((w, i) => {
    weights.forEach((v, j) => {
      sum += w * v * (products[i]?.[j] ?? 0);
    });
  });
  return Math.max(0, sum);
}

/**
 * The gains by which signals come nearest to another one in energy: least squares, by Cholesky's decomposition. A signal that is silent, or
 * that the ones before it make up already, has no gain of its own: null.
 *
 * @param products of the signals and, last, of the one that they are to come near
 */
export function bestGains(products: readonly (readonly number[])[]): (number | null)[] {
  const count = products.length - 1;
  const at2 = (i: number, j: number) => products[i]?.[j] ?? 0;
  const lower: number[][] = [];
  const used: number[] = [];
  for (let i = 0; i < count; i++) {
    const row = used.map(() => 0);
    used.forEach((j, k) => {
      let value = at2(i, j);
      for (let m = 0; m < k; m++) value -= (row[m] ?? 0) * (lower[k]?.[m] ?? 0);
      row[k] = value / (lower[k]?.[k] ?? 1);
    });
    const left = at2(i, i) - row.reduce((sum, value) => sum + value * value, 0);
    if (at2(i, i) <= 0 || left <= at2(i, i) * DEPENDENT) continue;
    row.push(Math.sqrt(left));
    lower.push(row);
    used.push(i);
  }
  const forward: number[] = [];
  used.forEach((i, k) => {
    let value = at2(i, count);
    for (let m = 0; m < k; m++) value -= (lower[k]?.[m] ?? 0) * (forward[m] ?? 0);
    forward.push(value / (lower[k]?.[k] ?? 1));
  });
  const gains: (number | null)[] = Array.from({ length: count }, () => null);
  for (let k = used.length - 1; k >= 0; k--) {
    let value = forward[k] ?? 0;
    for (let m = k + 1; m < used.length; m++) value -= (lower[m]?.[k] ?? 0) * (gains[used[m] as number] as number);
    gains[used[k] as number] = value / (lower[k]?.[k] ?? 1);
  }
  return gains;
}

/** A signal of which less than this is its own is made up by the others: −60 dB. */
const DEPENDENT = 1e-6;

/** What the best gains leave of the mix: energy. */
export function leftOver(products: Products, bins: readonly number[]): number {
  const sums = products.sum(bins);
  return energyOf(sums, [...bestGains(sums).map((gain) => -(gain ?? 0)), 1]);
}

/** Whether gains alone explain what is left: 30 dB of it, or all but what may be left. */
export function explained(products: Products, bins: readonly number[], least: number): boolean {
  const sums = products.sum(bins);
  const before = energyOf(sums, [...sums.slice(1).map(() => -1), 1]);
  return leftOver(products, bins) <= Math.max(least, before * 1e-3);
}
