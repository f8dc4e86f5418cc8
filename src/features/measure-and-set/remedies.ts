import type { Finding } from '@/core/findings/finding';
import { kindOf } from '@/core/findings/findings';
import type { StepName } from '@/core/treatment/treatment';
import { formatNumber } from '@/core/units/format';
import { remediesMessages as messages } from './messages';
import type { GainChoice } from './use-options';

/** What can be done at once about something that is said of a programme: a gain, a step to be set, or options to choose from. */
export type Remedy = { name: string } & (
  | { gainDb: number }
  | { step: StepName }
  | { hasOptions: true }
  | { goTo: 'next-clip' }
);

/** Steps that are set for what a requirement asks. */
const STEP_OF: Readonly<Record<string, StepName>> = {
  edges: 'trim',
  'room-tone': 'paddingStart',
  channels: 'mix',
  'sample-rate': 'resampleHz',
};
/** Less is no step of the gain. */
const LEAST_GAIN_DB = 0.005;

/** For something that a spec asks and that is missed; null where nothing on the desk mends it. */
export function remedyOf(
  key: string,
  {
    choices,
    gainDb,
    isStopped,
    hasLimiter,
  }: {
    choices: readonly GainChoice[];
    /** Of the current settings. */
    gainDb: number;
    /** The ceiling stops the gain ahead of the target. */
    isStopped: boolean;
    hasLimiter: boolean;
  },
): Remedy | null {
  const step = STEP_OF[key];
  if (step) return { name: messages.steps[step] ?? messages.setIt, step };
  if (key === 'peak' && hasLimiter) return { name: messages.setTheLimiter, step: 'limit' };
  const wanted = key === 'loudness' ? 'target' : key === 'peak' ? 'ceiling' : null;
  const aim = choices.find(({ id }) => id === wanted)?.gainDb;
  if (aim == null) return null;
  const byDb = aim - gainDb;
  if (key === 'loudness' && isStopped && byDb > 0 && !hasLimiter)
    return { name: messages.chooseAnOption, hasOptions: true };
  if (Math.abs(byDb) < LEAST_GAIN_DB) return null;
  const amount = formatNumber(Math.abs(byDb));
  return { name: byDb < 0 ? messages.turnDown(amount) : messages.turnUp(amount), gainDb: aim };
}

/** For a finding; null where nothing on the desk mends it. */
export function remedyOfFinding(finding: Finding): Remedy | null {
  if (finding.code === 'clipped-runs') return { name: messages.listenToIt, goTo: 'next-clip' };
  const step = kindOf(finding)?.step;
  return step ? { name: messages.steps[step] ?? messages.setIt, step } : null;
}
