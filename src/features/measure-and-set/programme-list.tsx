'use client';

import type { ReactNode } from 'react';
import { treatedFacts } from '@/core/delivery/facts';
import type { Readings } from '@/core/loudness/readings';
import { assess } from '@/core/spec/assess';
import { unknown } from '@/core/spec/facts';
import type { Spec } from '@/core/spec/spec';
import { glance } from '@/core/treatment/forecast';
import { isLevelOnly, preparationOf } from '@/core/treatment/treatment';
import { formatSampleRate, formatTime } from '@/core/units/format';
import { MiniRule } from '@/features/common/mini-rule';
import { StateMark } from '@/features/common/state-mark';
import { useLiveTask } from '@/features/common/task-events';
import { verdictState } from '@/features/common/verdict-words';
import { describeSamples } from '@/formats/audio-format';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { classNames } from '@/ui/class-names';
import { WorkLink } from '@/ui/work-link';

/** The job's programmes, each with its rule as its saved treatment leaves it. */
export function ProgrammeList({
  programmes,
  currentId,
  spec,
  hrefOf,
  children,
}: {
  programmes: readonly ProgrammeView[];
  currentId: string;
  spec: Spec;
  hrefOf: (programmeId: string) => string;
  children: ReactNode;
}) {
  return (
    <nav
      aria-label="Programmes"
      className="flex shrink-0 flex-col border-b border-hair p-3 lg:w-60 lg:border-r lg:border-b-0"
    >
      <p className="mb-2 flex justify-between px-1 text-xs text-mute">
        <span>Programmes</span>
        <span>{programmes.length}</span>
      </p>
      <ul className="flex min-h-0 grow gap-1 overflow-auto *:min-w-52 lg:flex-col">
        {programmes.map((programme) => (
          <li key={programme.id}>
            <WorkLink
              href={hrefOf(programme.id)}
              aria-current={programme.id === currentId ? 'true' : undefined}
              className={classNames(
                // The ring of focus lies within the list's edges, which cut off what stands out.
                'block rounded-card border px-3 py-2.5 focus-visible:-outline-offset-2!',
                programme.id === currentId ? 'border-stock-2 bg-sheet' : 'border-transparent hover:bg-stock-1',
              )}
            >
              <Entry programme={programme} spec={spec} />
            </WorkLink>
          </li>
        ))}
      </ul>
      <div className="mt-3 hidden lg:block">{children}</div>
    </nav>
  );
}

function Entry({ programme, spec }: { programme: ProgrammeView; spec: Spec }) {
  const { title, format, measured, treatment, predicted, task } = programme;
  const live = useLiveTask(task);
  const treated = measured ? (predicted ?? glance(measured.readings, treatment)) : undefined;
  return (
    <>
      <span className="flex justify-between gap-2">
        <span className="truncate text-sm font-bold">{title}</span>
        <StateMark state={treated ? verdictState(assess(spec, factsOf(programme, treated))) : 'not-measured'} />
      </span>
      <span className="mb-1.5 block truncate text-xs text-mute">
        {formatTime(format.durationSeconds)} · {formatSampleRate(format.sampleRateHz)} {describeSamples(format)}{' '}
        {format.layout}
      </span>
      {treated ? (
        <MiniRule readings={treated} spec={spec} />
      ) : (
        <span className="block font-mono text-xs text-mute">
          {live?.state === 'running'
            ? `measuring ${Math.round(live.fraction * 100)} %`
            : (live?.state ?? 'not measured')}
        </span>
      )}
    </>
  );
}

/** What is known of a programme that is not open: what comes before its gain is not forecast here. */
function factsOf({ format, treatment, tags, measured }: ProgrammeView, readings: Readings) {
  const isPlain = isLevelOnly(preparationOf(treatment));
  return treatedFacts({
    ...{ readings, treatment, tags, source: format, frames: format.frames, layout: format.layout },
    ...{ channels: format.channels, sampleRateHz: format.sampleRateHz },
    edges: (isPlain && measured?.edges) || unknown('forecast once it is opened'),
  });
}
