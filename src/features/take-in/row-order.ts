import { assess } from '@/core/spec/assess';
import { distanceDb } from '@/core/spec/distance';
import { factsOfFile } from '@/core/spec/facts';
import type { Spec } from '@/core/spec/spec';
import type { ProgrammeView } from '@/server/jobs/jobs';

export const ORDERS = [
  { value: 'taken-in', label: 'in order of arrival' },
  { value: 'furthest', label: 'furthest from the spec first' },
  { value: 'findings', label: 'most findings first' },
  { value: 'title', label: 'by title' },
  { value: 'longest', label: 'longest first' },
] as const;
export type RowOrder = (typeof ORDERS)[number]['value'];

const { compare } = new Intl.Collator('en', { numeric: true });

/** Programmes in an order; those that are not measured yet come last where it asks for readings. */
export function inOrder(programmes: readonly ProgrammeView[], order: RowOrder, spec: Spec): ProgrammeView[] {
  const by = (value: (programme: ProgrammeView) => number) => [...programmes].sort((a, b) => value(b) - value(a));
  switch (order) {
    case 'taken-in':
      return [...programmes];
    case 'furthest':
      return by(({ measured, format }) =>
        measured ? distanceDb(assess(spec, factsOfFile({ ...measured, format }))) : -1,
      );
    case 'findings':
      return by(({ measured }) => {
        if (!measured) return -1;
        // One that spoils what is delivered outweighs any number of remarks.
        return measured.findings.reduce((sum, { severity }) => sum + (severity === 'breach' ? 100 : 1), 0);
      });
    case 'title':
      return [...programmes].sort((a, b) => compare(a.title, b.title));
    case 'longest':
      return by(({ format }) => format.durationSeconds);
  }
}

export interface RowGroup {
  /** Null for those that stand alone. */
  name: string | null;
  programmes: ProgrammeView[];
}

/** Rows under the names of their groups: each group where its first row stands, the others together. */
export function inGroups(programmes: readonly ProgrammeView[]): RowGroup[] {
  const groups = new Map<string | null, RowGroup>();
  for (const programme of programmes) {
    const group = groups.get(programme.groupName) ?? { name: programme.groupName, programmes: [] };
    groups.set(programme.groupName, group);
    group.programmes.push(programme);
  }
  return [...groups.values()];
}
