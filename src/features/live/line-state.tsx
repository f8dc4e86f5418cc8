import { formatTime } from '@/core/units/format';
import type { LiveLine } from '@/server/lines/live-lines';
import { classNames } from '@/ui/class-names';
import { lineStateMessages as messages } from './messages';

const SHAPES = { off: '◌', opening: '◌', sounding: '●', lost: '▲' } as const;
const LOOKS = {
  off: 'border-hair bg-sheet text-mute',
  opening: 'border-hair bg-sheet text-mute',
  sounding: 'border-slide-2/60 bg-slide-1 text-slide-ink',
  lost: 'border-breach-line/40 bg-breach-1 text-breach',
} as const;
const PILL = 'inline-flex items-center gap-1.5 rounded-full border px-3 py-1 text-sm font-semibold whitespace-nowrap';

/** Whether sound comes from a line. */
export function LineStatePill({ live: { state } }: { live: LiveLine }) {
  return (
    <span role="status" data-line-state={state} className={classNames(PILL, LOOKS[state])}>
      <span aria-hidden>{SHAPES[state]}</span>
      {messages[state]}
    </span>
  );
}

/** That a line is recorded, and how long it has been. */
export function RecordingPill({ live: { recording } }: { live: LiveLine }) {
  if (!recording) return null;
  const seconds = recording.frames / (recording.sampleRateHz || 1);
  return (
    <span data-recording className={classNames(PILL, 'border-breach-line/40 bg-breach-1 text-breach')}>
      <span aria-hidden>◉</span>
      {messages.recording(formatTime(seconds))}
    </span>
  );
}
