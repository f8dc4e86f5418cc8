import { type Assessment, missedOf, type Verdict } from './assessment';
import type { Facts } from './facts';
import type { SpecLine } from './requirements/requirement';
import { REQUIREMENTS } from './requirements/requirements';
import { assessWhole } from './requirements/whole';
import type { Spec } from './spec';

/** The one judge: what is known of a file, or of what will be one, held against everything that a spec asks for. */
export function assess(spec: Spec, facts: Facts): Verdict {
  const asked = REQUIREMENTS.flatMap((own: { assess(asked: Spec, facts: Facts): Assessment[] }) =>
    own.assess(spec, facts),
  );
  const items = [...asked, ...assessWhole(facts)];
  return { specId: spec.id, inside: items.every(({ inside }) => inside), items, notJudged: spec.notJudged };
}

/** Whether another gain or another ceiling may meet what a verdict says is missed. */
export function isMovedByGain(verdict: Verdict): boolean {
  const movable = new Set(REQUIREMENTS.filter((own) => own.isMovedByGain).map(({ key }): string => key));
  return missedOf(verdict).some(({ key }) => movable.has(key));
}

/** What a verdict says of levels and of the audio itself, without what a spec asks of a file, its edges or its length. */
export function levelVerdict(verdict: Verdict): Verdict {
  const items = verdict.items.filter(({ key }) => REQUIREMENTS.find((own) => own.key === key)?.isMovedByGain !== false);
  return { ...verdict, items, inside: items.every(({ inside }) => inside) };
}

/** Whether something speaks of a file's format: until it is handed over, nothing of that is chosen. */
export function isOfFormat({ key }: Pick<Assessment, 'key'>): boolean {
  return REQUIREMENTS.some((own) => own.key === key && own.isOfFormat === true);
}

/** Everything that a spec can ask for, in order, in words: two specs stand line by line beside each other. */
export function describeSpec(spec: Spec): SpecLine[] {
  return [
    ...REQUIREMENTS.flatMap((own: { describe(asked: Spec): SpecLine[] }) => own.describe(spec)),
    { name: 'Check by hand', value: spec.notJudged.join('; ') },
  ];
}
