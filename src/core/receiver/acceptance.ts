import { FILE_FORMATS, type FileKind, kindOfName } from '../file-formats/file-formats';
import { assess } from '../spec/assess';
import type { Facts } from '../spec/facts';
import { premaster } from '../spec/requirements/premaster';
import type { Spec } from '../spec/spec';
import { formatNumber } from '../units/format';
import { acceptanceMessages as messages } from './messages';

/** What a receiver takes. It measures for itself: nothing is taken on anybody's word. */
export interface AcceptanceRules {
  specId: string;
  files: readonly FileKind[];
  /** Of a lossy file, what its bytes come to over its length, in kbit/s. */
  leastKbps?: number;
  /** What a file's name may be, and that in words. */
  name: { pattern: RegExp; words: string };
  mostBytes: number;
}

/** What a receiver finds of the files that it was sent, taken together as one programme. */
export interface ReceivedFacts {
  files: readonly { fileName: string; sizeBytes: number }[];
  /** As the files were measured on arrival. */
  facts: Facts;
}

/** Rules in words, one a line. */
export function describeRules({ files, leastKbps, name, mostBytes }: AcceptanceRules, spec: Spec): string[] {
  return [
    `meets ${spec.name}`,
    `as ${kinds(files)}${leastKbps === undefined ? '' : messages.leastBitRate(leastKbps)}`,
    messages.namedWith(name.words),
    messages.mostSize(formatNumber(mostBytes / 1e9)),
  ];
}

/** Why files are not looked into at all, by what they are called and how large they are said to be. */
export function refusalsAtSight(rules: AcceptanceRules, files: ReceivedFacts['files']): string[] {
  const refusals: string[] = [];
  for (const { fileName } of files) {
    const kind = kindOfName(fileName);
    const isTaken = kind !== undefined && rules.files.some((own) => own === kind || isSameName(own, kind));
    if (!isTaken) refusals.push(`${fileName} is not ${kinds(rules.files)}`);
    if (!rules.name.pattern.test(fileName)) refusals.push(messages.mustBeNamedWith(fileName, rules.name.words));
  }
  const bytes = files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0);
  if (bytes > rules.mostBytes) {
    refusals.push(messages.tooLarge(formatNumber(bytes / 1e9), formatNumber(rules.mostBytes / 1e9)));
  }
  return refusals;
}

/**
 * Why files are refused once they have been measured; empty where they are accepted. What could not be assessed is refused too,
 * unless it speaks of how they were made: no receiver can tell that.
 */
export function refusals(rules: AcceptanceRules, spec: Spec, { files, facts }: ReceivedFacts): string[] {
  const reasons = assess(spec, facts)
    .items.filter(({ inside, key }) => !inside && key !== premaster.key)
    .map(
      ({ name, found, required, why }) =>
        `${name} ${why === null ? found : messages.notAssessed(why)}, required ${required}`,
    );
  if (rules.leastKbps !== undefined) {
    const bytes = files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0);
    const kbps = (8 * bytes) / facts.durationSeconds / 1000;
    // Its own head and tags take up some; no named rate lies within a hundredth of another.
    if (kbps < 0.99 * rules.leastKbps) {
      reasons.push(messages.bitRateTooLow(Math.round(kbps), rules.leastKbps));
    }
  }
  return reasons;
}

function kinds(files: readonly FileKind[]): string {
  return files.map((kind) => FILE_FORMATS[kind].name).join(' or ');
}

/** BW64 files bear the name of WAV files. */
function isSameName(own: FileKind, other: FileKind): boolean {
  return FILE_FORMATS[own].extensions[0] === FILE_FORMATS[other].extensions[0];
}
