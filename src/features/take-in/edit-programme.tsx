'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { useState } from 'react';
import type { ActionResult } from '@/features/common/action-result';
import { useChanged } from '@/features/common/data/use-changed';
import { FormProblem } from '@/features/common/form-problem';
import { useSaveStatus } from '@/features/common/save-status';
import { submitForm } from '@/features/common/submit-form';
import { useSharedForm } from '@/features/common/use-shared-form';
import type { TakeInRow } from '@/server/jobs/take-in-list';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, LongField } from '@/ui/field';
import { describeProgramme, setRemoved } from './actions';
import { type Description, descriptionSchema } from './description';
import { editProgrammeMessages as messages } from './messages';

/** What a person calls a programme, notes of it and counts it to; and the way out of the job. */
export function EditProgramme({ programme, groups }: { programme: TakeInRow; groups: readonly string[] }) {
  const [isOpen, setIsOpen] = useState(false);
  return (
    <Dialog
      trigger={<Button kind="inline">{messages.edit}</Button>}
      title={programme.title}
      description={messages.madeFrom(programme.fileName)}
      isOpen={isOpen}
      onOpenChange={setIsOpen}
    >
      <DescriptionForm programme={programme} groups={groups} onDone={() => setIsOpen(false)} />
    </Dialog>
  );
}

function DescriptionForm({
  programme: { id, title, note, groupName },
  groups,
  onDone,
}: {
  programme: TakeInRow;
  groups: readonly string[];
  onDone: () => void;
}) {
  const changed = useChanged();
  const { track } = useSaveStatus();
  const values: Description = { title, note, groupName: groupName ?? '' };
  const form = useSharedForm(values, { resolver: zodResolver(descriptionSchema) });
  const { errors, isSubmitting } = form.formState;
  const finish = async (change: () => Promise<ActionResult>) => {
    if (!(await submitForm(form, () => track(change())))) return;
    onDone();
    void changed();
  };
  return (
    <form
      className="flex flex-col gap-3"
      noValidate
      // What was not changed here may have been elsewhere, meanwhile.
      onSubmit={form.handleSubmit((typed) => finish(() => describeProgramme(id, form.ofTyped(typed), values)))}
    >
      <Field
        label={messages.title}
        {...form.register('title')}
        problem={errors.title?.message}
        remark={form.elsewhere('title')}
      />
      <Field
        label={messages.group}
        list={`groups-${id}`}
        {...form.register('groupName')}
        problem={errors.groupName?.message}
        remark={form.elsewhere('groupName')}
      />
      <datalist id={`groups-${id}`}>
        {groups.map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
      <LongField
        label={messages.note}
        {...form.register('note')}
        problem={errors.note?.message}
        remark={form.elsewhere('note')}
      />
      <FormProblem>{errors.root?.message}</FormProblem>
      <footer className="flex items-center justify-between gap-3">
        <Button onClick={() => void finish(() => setRemoved(id, true))}>{messages.removeFromTheJob}</Button>
        <Button kind="primary" type="submit" disabled={isSubmitting}>
          {messages.save}
        </Button>
      </footer>
    </form>
  );
}
