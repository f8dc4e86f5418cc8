'use client';

import { useSearchParams, useSelectedLayoutSegment } from 'next/navigation';
import type { ReactNode } from 'react';
import { Brand } from '@/features/common/brand';
import { useIsServerLost } from '@/features/common/data/live-tasks';
import { PersonMenu } from '@/features/common/person-menu';
import { useSaveStatus } from '@/features/common/save-status';
import { ThemeSwitch } from '@/features/common/theme-switch';
import { PlaceLinks } from '@/features/common/top-bar';
import { classNames } from '@/ui/class-names';
import { WorkLink } from '@/ui/work-link';
import { jobHeaderMessages as messages } from './messages';

const STAGES = [
  { segment: 'take-in', name: messages.takeIn },
  { segment: 'measure-and-set', name: messages.measureAndSet },
  { segment: 'line-up', name: messages.lineUp },
  { segment: 'hand-over', name: messages.handOver },
] as const;

/** The bar above every stage of a job: where one is, where one can go, and whether all is saved. */
export function JobHeader({ jobId, jobName, children }: { jobId: string; jobName: string; children: ReactNode }) {
  const segment = useSelectedLayoutSegment();
  const search = useSearchParams().toString();
  const { pending, failed } = useSaveStatus();
  const isLost = useIsServerLost();
  return (
    // Not seen before its end has come: a page is drawn while it arrives, and what comes last moves what came first.
    <header className="flex flex-wrap items-center gap-x-4 gap-y-2 bg-bar px-4 py-2 text-bar-text [&:not(:has(#bar-end))]:invisible">
      <Brand />
      <p className="max-w-56 truncate text-sm">{jobName}</p>
      <nav aria-label={messages.stages} className="mx-auto flex gap-1 rounded-card bg-bar-raised p-1">
        {STAGES.map((stage) => (
          <WorkLink
            key={stage.segment}
            data-tour={stage.segment}
            href={`/jobs/${jobId}/${stage.segment}${search ? `?${search}` : ''}`}
            aria-current={segment === stage.segment ? 'page' : undefined}
            className={classNames(
              'rounded-control px-3 py-1 text-sm font-semibold',
              segment === stage.segment ? 'bg-[#ffffff] text-[#221d33]' : 'text-bar-text hover:text-on-action',
            )}
          >
            {stage.name}
          </WorkLink>
        ))}
      </nav>
      {/* As wide as its widest words: a change of it moves nothing. */}
      <p role="status" className="w-[11ch] font-mono text-xs whitespace-nowrap">
        {isLost
          ? messages.serverNotReached
          : failed
            ? messages.notSaved
            : pending > 0
              ? messages.saving
              : messages.allSaved}
      </p>
      <PlaceLinks />
      <PersonMenu />
      <ThemeSwitch />
      {children}
      <i id="bar-end" hidden />
    </header>
  );
}
