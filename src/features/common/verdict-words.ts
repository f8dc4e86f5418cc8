import { type Assessment, lowerName, missedOf, unassessedOf, type Verdict } from '@/core/spec/assessment';
import type { MarkState } from './state-mark';

export interface Phrase {
  state: MarkState;
  text: string;
}

/** A verdict as short sentences: where it lands, every limit that is missed, and what could not be assessed. */
export function verdictPhrases(verdict: Verdict): Phrase[] {
  const lead = leadOf(verdict);
  const misses = missedOf(verdict).filter((item) => item !== lead);
  const unassessed = unassessedOf(verdict).filter((item) => item !== lead);
  return [
    ...(lead ? [phraseOf(lead)] : []),
    ...misses.map(phraseOf),
    ...(unassessed.length > 0
      ? [
          {
            state: 'not-assessed' as const,
            text: `not assessed: ${unassessed.map(({ name }) => lowerName(name)).join(', ')}`,
          },
        ]
      : []),
  ];
}

/** What is said of a programme first: its loudness, or its peak where a spec asks for none. */
function leadOf({ items }: Verdict): Assessment | undefined {
  return items.find(({ key }) => key === 'loudness') ?? items.find(({ key }) => key === 'peak') ?? items[0];
}

function phraseOf({ state, phrase }: Assessment): Phrase {
  return { state, text: phrase };
}

/** The one mark for a whole verdict: the first thing that is missed, or that something was not assessed. */
export function verdictState(verdict: Verdict): MarkState {
  return missedOf(verdict)[0]?.state ?? (verdict.inside ? 'inside' : 'not-assessed');
}
