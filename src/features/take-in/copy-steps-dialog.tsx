'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { STEP_NAMES, type StepName, stepNamed } from '@/core/treatment/treatment';
import { namesQuery, programmeQuery } from '@/features/common/data/queries';
import { askMany } from '@/features/common/many/actions';
import type { Act } from '@/features/common/use-act';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { copyStepsMessages as messages } from './messages';

/** Sets steps of many programmes as one of the job has them. */
export function CopyStepsDialog({
  jobId,
  programmeIds,
  act,
  onClose,
}: {
  jobId: string;
  /** That are set. */
  programmeIds: readonly string[];
  act: Act;
  onClose: () => void;
}) {
  const { data: names = [] } = useQuery(namesQuery(jobId));
  const [fromId, setFromId] = useState(programmeIds[0] ?? '');
  const { data: from } = useQuery(programmeQuery(fromId));
  const [ticked, setTicked] = useState<readonly StepName[]>([]);
  const others = programmeIds.filter((id) => id !== fromId);
  const tick = (name: StepName, isOn: boolean) =>
    setTicked(STEP_NAMES.filter((own) => (own === name ? isOn : ticked.includes(own))));
  return (
    <Dialog
      title={messages.title(others.length)}
      description={messages.description}
      isOpen
      onOpenChange={(isOpen) => !isOpen && onClose()}
    >
      <form
        className="flex min-h-0 flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void act(() => askMany(jobId, others, { kind: 'steps', fromId, steps: [...ticked] }), onClose);
        }}
      >
        <div className="flex items-center gap-3 text-sm">
          <span aria-hidden>{messages.from}</span>
          <Choice
            label={messages.from}
            value={fromId}
            options={names.map(({ id, title }) => ({ value: id, label: title }))}
            onChange={setFromId}
          />
        </div>
        <fieldset className="flex min-h-0 flex-col gap-1 overflow-y-auto">
          <legend className="sr-only">{messages.steps}</legend>
          {STEP_NAMES.map((name) => (
            <label key={name} className="flex items-baseline gap-2 text-sm">
              <input
                type="checkbox"
                checked={ticked.includes(name)}
                onChange={(event) => tick(name, event.target.checked)}
              />
              <span className="w-36 shrink-0 font-semibold">{stepNamed(name).title}</span>
              <span className="text-xs text-mute">{from ? settingOf(name, from) : '…'}</span>
            </label>
          ))}
        </fieldset>
        <footer className="flex justify-end gap-2">
          <Button onClick={onClose}>{messages.cancel}</Button>
          <Button
            kind="primary"
            type="submit"
            disabled={others.length === 0 || !from}
            whyNot={ticked.length === 0 ? messages.tickSteps : null}
          >
            {messages.set(others.length)}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}

function settingOf(name: StepName, { treatment, format }: ProgrammeView): string {
  const words = stepNamed(name).describe(treatment, format.sampleRateHz);
  return words ?? (name === 'gainDb' ? messages.noGain : messages.off);
}
