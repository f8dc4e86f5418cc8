'use client';

import { isFault, LINE_EVENTS, type LineEvent } from '@/core/live/line-event';
import { formatNumber, formatTime } from '@/core/units/format';
import { StateMark } from '@/features/common/state-mark';
import { clockTime } from './clock-time';
import type { LineStore } from './line-store';
import { lineEventsMessages as messages } from './messages';
import { useLine } from './use-lines';

/** What happened on a line, the latest first: overs and other alarms as they come, and what people have done. */
export function LineEvents({ store }: { store: LineStore }) {
  const { events } = useLine(store);
  return (
    <section className="flex min-h-0 grow flex-col" aria-label={messages.events}>
      <h2 className="text-sm font-bold">{messages.events}</h2>
      {events.length === 0 ? <p className="py-1 text-xs text-mute">{messages.none}</p> : null}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard. */}
      <ul tabIndex={0} className="min-h-0 grow overflow-y-auto text-[13px] max-lg:max-h-80">
        {events.map((event) => (
          <EventRow key={event.id} event={event} />
        ))}
      </ul>
    </section>
  );
}

/** Such as "12.4 s" or "26:34". */
function lastedFor(seconds: number): string {
  return seconds < 60 ? messages.lasted(formatNumber(seconds)) : formatTime(seconds);
}

function EventRow({ event: { kind, startMs, endMs, words } }: { event: LineEvent }) {
  const name = LINE_EVENTS.find((own) => own.kind === kind)?.name ?? kind;
  const isOfFault = isFault(kind);
  return (
    <li
      data-event={kind}
      className="grid grid-cols-[4.4rem_1rem_1fr_auto] items-baseline gap-x-1.5 border-b border-hair py-0.5 last:border-0"
      title={name}
    >
      <time className="font-mono text-xs text-mute">{clockTime(startMs)}</time>
      <span className="text-xs">{isOfFault ? <StateMark state={kind === 'over' ? 'over' : 'advice'} /> : null}</span>
      <span className={endMs === null ? 'font-semibold' : ''}>{words}</span>
      <span className="font-mono text-xs text-mute">
        {endMs === null ? messages.goesOn : endMs > startMs ? lastedFor((endMs - startMs) / 1000) : ''}
      </span>
    </li>
  );
}
