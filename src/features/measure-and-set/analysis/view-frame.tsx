'use client';

import type { ReactNode } from 'react';
import { Button } from '@/ui/button';
import { useDesk } from '../desk/desk-context';
import { analysisPanelMessages, viewFrameMessages as messages } from './messages';
import type { Bands } from './use-bands';
import type { AnalysisView } from './views';

/** What can be done about what a view shows. */
export interface ViewAction {
  name: string;
  run: () => void;
}

/** A view of the sound: what it asks, the picture, and the answer in words with what can be done about it. */
export function ViewFrame({
  view,
  remark,
  answer,
  actions = [],
  hasKey = false,
  children,
}: {
  view: AnalysisView;
  /** What it was read from, where that is not the whole programme. */
  remark?: string | undefined;
  answer: string;
  actions?: readonly ViewAction[];
  /** Before and after are drawn apart. */
  hasKey?: boolean;
  children: ReactNode;
}) {
  const { name, question } = analysisPanelMessages.views[view];
  return (
    <section aria-label={name} className="flex min-h-0 min-w-0 flex-col gap-0.5">
      <h3 className="flex items-baseline justify-between gap-2 text-[13px] leading-4 font-bold">
        <span className="min-w-0 truncate">
          {name} {remark ? <span className="font-normal text-mute">{remark}</span> : null}
        </span>
        {hasKey ? <Key /> : null}
      </h3>
      <p className="text-[11px] leading-[14px] text-mute">{question}</p>
      <div className="min-h-20 min-w-0 grow">{children}</div>
      <p className="flex flex-wrap items-baseline gap-x-1.5 text-xs leading-[15px]">
        <span>{answer}</span>
        {actions.map((action) => (
          <Button key={action.name} kind="inline" className="px-0!" onClick={action.run}>
            {action.name}
          </Button>
        ))}
      </p>
    </section>
  );
}

/** What stands in a view's place while there is nothing to draw. */
export function ViewNote({ children }: { children: ReactNode }) {
  return <p className="pt-3 text-xs text-mute">{children}</p>;
}

function Key() {
  return (
    <span aria-hidden className="flex shrink-0 items-center gap-2 text-[11px] font-normal text-mute">
      <span className="flex items-center gap-1">
        <i className="inline-block h-2 w-3 border border-stock-3 bg-stock-2" /> {messages.before}
      </span>
      <span className="flex items-center gap-1">
        <i className="inline-block h-0.5 w-3 bg-slide-ink" /> {messages.after}
      </span>
    </span>
  );
}

/** What a view was read from, where that is not all of the programme. */
export function readFrom({ isWhole, startFrames }: Pick<Bands, 'isWhole' | 'startFrames'>, hasSpan: boolean): string {
  return [...(hasSpan ? [messages.ofTheSpan] : []), ...(isWhole ? [] : [messages.spread(startFrames.length)])].join(
    ' ',
  );
}

/** Actions that open the settings a view speaks of. */
export function useSettingActions() {
  const { setOpenStep } = useDesk();
  return {
    setTheGain: { name: messages.setTheGain, run: () => setOpenStep('gainDb') },
    setTheLimiter: { name: messages.setTheLimiter, run: () => setOpenStep('limit') },
    setTheChannels: { name: messages.setTheChannels, run: () => setOpenStep('mix') },
  } satisfies Record<string, ViewAction>;
}
