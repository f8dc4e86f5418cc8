'use client';

import { useRouter } from 'next/navigation';
import { type FormEvent, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { ErrorNotice } from '@/features/common/error-notice';
import { useSaveStatus } from '@/features/common/save-status';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, LongField } from '@/ui/field';
import { describeProgramme, setRemoved } from './actions';

/** What a person calls a programme, notes of it and counts it to; and the way out of the job. */
export function EditProgramme({ programme, groups }: { programme: ProgrammeView; groups: readonly string[] }) {
  const router = useRouter();
  const { track } = useSaveStatus();
  const [isOpen, setIsOpen] = useState(false);
  const [error, setError] = useState<ErrorRecord>();
  const { id, title, note, groupName, fileName } = programme;
  const finish = async (change: ReturnType<typeof setRemoved>) => {
    const result = await track(change);
    setError(result.ok ? undefined : result.error);
    if (!result.ok) return;
    setIsOpen(false);
    router.refresh();
  };
  const save = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const text = (name: string) => String(form.get(name) ?? '');
    void finish(describeProgramme(id, { title: text('title'), note: text('note'), groupName: text('group') }));
  };
  return (
    <Dialog
      trigger={<Button kind="inline">Edit</Button>}
      title={title}
      description={`made from ${fileName}`}
      isOpen={isOpen}
      onOpenChange={setIsOpen}
    >
      <form onSubmit={save} className="flex flex-col gap-3">
        <Field label="Title" name="title" defaultValue={title} required maxLength={200} />
        <Field
          label="Group: the mix of a stem, the book of a chapter (optional)"
          name="group"
          defaultValue={groupName ?? ''}
          maxLength={120}
          list={`groups-${id}`}
        />
        <datalist id={`groups-${id}`}>
          {groups.map((name) => (
            <option key={name} value={name} />
          ))}
        </datalist>
        <LongField label="Note" name="note" defaultValue={note} maxLength={2000} />
        <ErrorNotice error={error} />
        <footer className="flex items-center justify-between gap-3">
          <Button onClick={() => void finish(setRemoved(id, true))}>Remove from the job</Button>
          <Button kind="primary" type="submit">
            Save
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}
