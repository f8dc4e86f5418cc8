import type { Edges } from '../loudness/edges';
import type { Readings } from '../loudness/readings';
import type { Spec } from '../spec/spec';
import { type Check, type JudgedFormat, judge, type Verdict } from '../spec/verdict';
import type { Treatment } from '../treatment/treatment';
import { formatNumber, formatSampleRate } from '../units/format';
import { isLossy, KIND_FACTS } from './file-kinds';
import type { SettledFormat } from './format';
import type { Tags } from './tags';

/** What a delivery is judged by: of one that is not written yet, what it will be. */
export interface DeliveryFacts {
  readings: Readings;
  /** As the file states it, or will. */
  written: JudgedFormat & { layout: string; frames: number };
  nonFiniteSamples: number;
  format: SettledFormat;
  /** Frames that the treatment makes; null where they are not known. */
  expectedFrames: number | null;
  /** Null before it is written. */
  edges: Edges | null;
  treatment: Treatment;
  tags: Tags;
  source: { sampleRateHz: number; bitDepth: number | null; sampleFormat: 'integer' | 'float'; frames: number };
}

/** Judges a delivery against its spec: its readings, and what else the spec asks of the file. */
export function judgeDelivery(facts: DeliveryFacts, spec: Spec): Verdict {
  const verdict = judge(facts.readings, facts.written, spec, facts.nonFiniteSamples);
  const checks = [
    ...fileChecks(facts, spec),
    ...levelChecks(facts, spec),
    ...lengthChecks(facts),
    ...(spec.tags ?? []).map((name) =>
      check(tagName(name), facts.tags[name] || 'none', 'stated', facts.tags[name] !== ''),
    ),
    ...(spec.isPremaster ? premasterChecks(facts) : []),
  ];
  return { ...verdict, checks, inside: verdict.inside && checks.every(({ inside }) => inside) };
}

function check(name: string, found: string, required: string, inside: boolean): Check {
  return { name, found, required, inside };
}

function fileChecks({ format, written }: DeliveryFacts, spec: Spec): Check[] {
  const { kind, mode, bitRateKbps } = format;
  const checks: Check[] = [];
  if (spec.files) {
    const names = spec.files.map((own) => KIND_FACTS[own].name);
    checks.push(check('File', KIND_FACTS[kind].name, names.join(' or '), spec.files.includes(kind)));
  }
  if (spec.bitRate && isLossy(kind)) {
    const { leastKbps, modes } = spec.bitRate;
    const required = leastKbps === null ? modes.join(' or ') : `${modes.join(' or ')}, ${leastKbps} kbit/s or more`;
    const isEnough = leastKbps === null || (bitRateKbps ?? 0) >= leastKbps;
    const found = `${mode}, ${bitRateKbps} kbit/s`;
    checks.push(check('Bit rate', found, required, mode !== null && modes.includes(mode) && isEnough));
  }
  if (spec.layouts) {
    checks.push(check('Layout', written.layout, spec.layouts.join(' or '), spec.layouts.includes(written.layout)));
  }
  return checks;
}

function levelChecks({ readings, edges }: DeliveryFacts, spec: Spec): Check[] {
  return [
    rangeCheck('Loudness range', readings.loudnessRangeLu, spec.loudnessRange, 'LU'),
    edges && rangeCheck('Ahead of the first sound', edges.headSeconds, spec.head, 's'),
    edges && rangeCheck('After the last sound', edges.tailSeconds, spec.tail, 's'),
  ].filter((own) => own !== null);
}

function rangeCheck(name: string, value: number | null, range: Spec['loudnessRange'], unit: string): Check | null {
  if (!range) return null;
  const { least, most } = range;
  const number = (own: number) => `${formatNumber(own)} ${unit}`;
  const required =
    least !== null && most !== null
      ? `${formatNumber(least)} to ${number(most)}`
      : least !== null
        ? `${number(least)} or more`
        : `${number(most ?? 0)} or less`;
  const isInside =
    value !== null && value >= (least ?? Number.NEGATIVE_INFINITY) && value <= (most ?? Number.POSITIVE_INFINITY);
  return check(name, value === null ? 'not measured' : number(value), required, isInside);
}

/** Bare MP2 has no place to say what its coder put ahead and behind. */
function lengthChecks({ expectedFrames, written, format }: DeliveryFacts): Check[] {
  if (expectedFrames === null || format.kind === 'mp2') return [];
  const frames = (count: number) => `${count} frames`;
  return [check('Length', frames(written.frames), frames(expectedFrames), written.frames === expectedFrames)];
}

function premasterChecks({ treatment, format, source }: DeliveryFacts): Check[] {
  const { limit, keep, fadeOut, dither } = treatment;
  const isDithered = dither !== null ? dither !== 'none' : format.bitDepth === 16;
  const endFrame = keep?.endFrame ?? source.frames;
  const depth = (bits: number, isFloat: boolean) => (isFloat ? `${bits}-bit float` : `${bits}-bit`);
  const sourceBits = source.bitDepth ?? 32;
  const isFloatSource = source.sampleFormat === 'float';
  const isRaised = !isFloatSource && (format.bitDepth ?? 0) > Math.max(sourceBits, 16) && sourceBits < 24;
  return [
    check('Limiter', limit ? 'on' : 'none', 'none', limit === null),
    check('Dither', isDithered ? 'on' : 'none', 'none', !isDithered),
    check(
      'Rate of the source',
      formatSampleRate(format.sampleRateHz),
      formatSampleRate(source.sampleRateHz),
      format.sampleRateHz === source.sampleRateHz,
    ),
    check(
      'Depth of the source',
      depth(format.bitDepth ?? 0, format.bitDepth === 32),
      isRaised ? `${depth(sourceBits, false)}: more bits hold no more of it` : depth(sourceBits, isFloatSource),
      !isRaised,
    ),
    check(
      'Tail',
      endFrame >= source.frames && !fadeOut ? 'whole' : 'cut or faded',
      'whole',
      endFrame >= source.frames && !fadeOut,
    ),
  ];
}

function tagName(name: keyof Tags): string {
  return name === 'isrc' ? 'ISRC' : name.charAt(0).toUpperCase() + name.slice(1);
}
