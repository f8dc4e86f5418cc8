'use client';

import { createContext, type ReactNode, useContext } from 'react';
import { SPECS } from '@/core/spec/catalogue';
import type { Spec } from '@/core/spec/spec';
import { specsMessages as messages } from './messages';

const Specs = createContext<readonly Spec[]>(SPECS);

/** The specs that are offered, each as it is now: built in, and one's own. */
export function SpecsProvider({ specs, children }: { specs: readonly Spec[]; children: ReactNode }) {
  return <Specs value={specs}>{children}</Specs>;
}

export function useSpecs(): readonly Spec[] {
  return useContext(Specs);
}

/** The spec with this id, or else the first there is: what a page names was looked up before. */
export function useSpec(specId: string): Spec {
  const specs = useSpecs();
  return specs.find(({ id }) => id === specId) ?? (specs[0] as Spec);
}

const BASES = { published: 'published', 'common-practice': messages.commonPractice, own: 'own' } as const;

/** For a list to choose from. */
export function specOptions(specs: readonly Spec[]): { value: string; label: string; detail: string }[] {
  return specs.map(({ id, name, basis }) => ({ value: id, label: name, detail: BASES[basis.kind] }));
}
