/** A number as people type it: with either minus, either decimal mark, and its unit or not. Undefined where it is none. */
export function parseNumber(text: string, unit = ''): number | undefined {
  const bare = text.trim().toLowerCase();
  const plain = (unit && bare.endsWith(unit.toLowerCase()) ? bare.slice(0, -unit.length) : bare)
    .replace(/[−–]/g, '-')
    .replace(',', '.')
    .replace(/\s/g, '');
  return /^[+-]?(\d+(\.\d*)?|\.\d+)$/.test(plain) ? Number(plain) : undefined;
}

/**
 * A gap as people type it, in seconds: `1.5`, `−2 s`, `4410 f` frames of a rate, or `150/75` frames of a CD; to a millisecond, and to the
 * frame where frames are typed. Undefined where it is none.
 */
export function parseGap(text: string, sampleRateHz: number): number | undefined {
  const frames = parseNumber(/^(.*\d)\s*f(rames?)?$/i.exec(text.trim())?.[1] ?? '');
  if (frames !== undefined && Number.isInteger(frames)) return frames / sampleRateHz;
  const onDisc = parseNumber(/^(.*)\/\s*75$/.exec(text.trim())?.[1] ?? '');
  if (onDisc !== undefined && Number.isInteger(onDisc)) return onDisc / 75;
  const seconds = parseNumber(text, 's');
  return seconds === undefined ? undefined : Math.round(1000 * seconds) / 1000;
}

/**
 * A time as people type it, in frames: `1:02:03.5`, `2:03,25`, `83.5` seconds, or `4410 f` frames. Undefined where it is none.
 */
export function parseTime(text: string, sampleRateHz: number): number | undefined {
  const plain = text.trim().toLowerCase().replace(',', '.');
  const frames = /^(\d+)\s*f(rames?)?$/.exec(plain);
  if (frames) return Number(frames[1]);
  const parts = /^(?:(?:(\d+):)?(\d{1,2}|\d+):)?(\d+(?:\.\d*)?)\s*s?$/.exec(plain);
  if (!parts) return undefined;
  const [hours = 0, minutes = 0, seconds = 0] = parts.slice(1).map((part) => Number(part ?? 0));
  const isTwoPart = parts[2] !== undefined;
  if (isTwoPart && seconds >= 60) return undefined;
  return Math.round((hours * 3600 + minutes * 60 + seconds) * sampleRateHz);
}
