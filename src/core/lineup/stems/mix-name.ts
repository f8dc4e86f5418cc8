/** Words that name a mix among its stems, in file names of the trade (common practice, no source). */
const MIX = /(^|[^a-z])(2-?mix|((full|stereo)[ _-]?)?mix(down)?|master|print)$/i;

/** Whether a file's name, without its extension, ends as that of a mix does. */
export function isMixName(name: string): boolean {
  return MIX.test(name);
}
