'use client';

import type { SecondState } from '@/core/live/second-log';
import type { LogStep } from '@/server/lines/line-log';
import { classNames } from '@/ui/class-names';
import { clockTime } from './clock-time';
import { dayStripMessages as messages } from './messages';

const CELL_MINUTES = 10;
const CELLS = (24 * 60) / CELL_MINUTES;
const CELL_S = CELL_MINUTES * 60;

type CellState = 'inside' | 'outside' | 'lost' | 'notMeasured';

const LOOKS: Readonly<Record<CellState, string>> = {
  inside: 'bg-slide-2 h-3',
  outside: 'bg-breach-line h-5',
  lost: 'border border-stock-3 h-3',
  notMeasured: 'bg-hair h-px',
};

/** The last 24 hours at a glance: for every ten minutes, whether all of them were inside. Height tells what colour tells. */
export function DayStrip({ day, nowMs }: { day: readonly LogStep[]; nowMs: number }) {
  const lastCell = Math.floor(nowMs / 1000 / CELL_S);
  const cells = Array.from({ length: CELLS }, (_, i) => {
    const startS = (lastCell - CELLS + 1 + i) * CELL_S;
    const steps = day.filter(({ atS }) => atS >= startS && atS < startS + CELL_S);
    return { startS, state: stateOf(steps) };
  });
  const count = (state: CellState) => cells.filter((cell) => cell.state === state).length;
  const words = (['inside', 'outside', 'lost', 'notMeasured'] as const).map(
    (state) => `${messages[state]} ${count(state)}`,
  );
  return (
    <div role="img" aria-label={`${messages.today}: ${words.join(', ')}`} className="flex h-6 w-full items-end gap-px">
      {cells.map(({ startS, state }) => (
        <i
          key={startS}
          title={messages.cell(clockTime(startS * 1000, { withSeconds: false }), messages[state])}
          className={classNames('grow rounded-[1px]', LOOKS[state])}
        />
      ))}
    </div>
  );
}

function stateOf(steps: readonly LogStep[]): CellState {
  const seconds = (state: SecondState) => steps.reduce((sum, { states }) => sum + states[state], 0);
  if (steps.length === 0) return 'notMeasured';
  if (seconds('over') + seconds('under') > 0) return 'outside';
  if (seconds('inside') === 0) return 'lost';
  return seconds('lost') > 0 ? 'outside' : 'inside';
}
