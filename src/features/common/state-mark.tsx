import type { AssessmentState } from '@/core/spec/assessment';
import { classNames } from '@/ui/class-names';
import { stateMarkMessages as messages } from './messages';

export type MarkState = AssessmentState | 'advice' | 'not-measured';

const MARKS: Record<MarkState, { shape: string; label: string; text: string; pill: string }> = {
  inside: { shape: '◆', label: 'inside', text: 'text-slide-ink', pill: 'bg-slide-1 text-slide-ink border-slide-2/60' },
  over: { shape: '▲', label: 'over', text: 'text-breach', pill: 'bg-breach-1 text-breach border-breach-line/40' },
  under: { shape: '▼', label: 'under', text: 'text-breach', pill: 'bg-breach-1 text-breach border-breach-line/40' },
  missed: { shape: '▲', label: 'missed', text: 'text-breach', pill: 'bg-breach-1 text-breach border-breach-line/40' },
  advice: { shape: '○', label: 'advice', text: 'text-advice', pill: 'bg-advice-1 text-advice border-advice/40' },
  'not-assessed': {
    shape: '◌',
    label: messages.notAssessed,
    text: 'text-mute',
    pill: 'bg-sheet text-mute border-hair',
  },
  'not-measured': {
    shape: '◌',
    label: messages.notMeasured,
    text: 'text-mute',
    pill: 'bg-sheet text-mute border-hair',
  },
};

/** A state's shape; colour only repeats what the shape says. */
export function StateMark({ state }: { state: MarkState }) {
  const { shape, label, text } = MARKS[state];
  return (
    <span role="img" aria-label={label} className={classNames('inline-block w-[1em] text-center', text)}>
      {shape}
    </span>
  );
}

export function StatePill({ state, children }: { state: MarkState; children: string }) {
  const { shape, pill } = MARKS[state];
  return (
    <span
      className={classNames(
        'inline-flex items-center gap-1.5 rounded-full border px-3 py-1 text-sm font-semibold whitespace-nowrap',
        pill,
      )}
    >
      <span aria-hidden>{shape}</span>
      {children}
    </span>
  );
}
