'use client';

import { passProblems, passText } from '@/core/outboard/pass-words';
import { stageAddress } from '@/features/common/address';
import { useChanged } from '@/features/common/data/use-changed';
import { TaskState } from '@/features/common/task-state';
import type { PassView } from '@/server/outboard/passes';
import { Button } from '@/ui/button';
import { WorkLink } from '@/ui/work-link';
import { outboardMessages as messages } from './messages';

/** A pass that was recorded: when it came back, how loud, and what is wrong with it. */
export function PassRow({
  jobId,
  pass: { id, number, sentName, sampleRateHz, reading, returned, task },
}: {
  jobId: string;
  pass: PassView;
}) {
  const changed = useChanged();
  const problems = reading ? passProblems(reading, sampleRateHz) : [];
  const forget = () => void fetch(`/api/passes/${id}`, { method: 'DELETE' }).then(changed, () => undefined);
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 gap-y-0.5 border-t border-hair py-1.5">
      <span className="font-semibold">{messages.pass(number, sentName)}</span>
      {reading ? (
        <span className="text-mute">{passText(reading, sampleRateHz)}</span>
      ) : (
        <span className="min-w-64 grow">
          <TaskState task={task} verb="aligning" />
        </span>
      )}
      <span className="ml-auto flex items-baseline gap-2">
        {returned ? (
          <WorkLink
            href={stageAddress(jobId, 'measure-and-set', { programme: returned.programmeId })}
            className="text-xs font-semibold text-slide-ink hover:underline"
          >
            {messages.openPass}
          </WorkLink>
        ) : null}
        <Button kind="inline" title={messages.forgetHint} onClick={forget}>
          {messages.forget}
        </Button>
      </span>
      {problems.map((problem) => (
        <span key={problem} className="w-full text-advice">
          ○ {problem}
        </span>
      ))}
    </li>
  );
}
