/** A time of the day where the reader is, as "14:03:22" or "14:03". Only in the browser: a server may be elsewhere. */
export function clockTime(ms: number, { withSeconds = true } = {}): string {
  return new Date(ms).toTimeString().slice(0, withSeconds ? 8 : 5);
}
