'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import * as z from 'zod';
import { tagsSchema } from '@/core/file-formats/tags';
import { askMany } from '@/features/common/many/actions';
import type { Act } from '@/features/common/use-act';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { tagsDialogMessages as messages } from './messages';

const FIELDS = ['artist', 'album', 'year', 'genre', 'comment'] as const;
const schema = z.object({
  artist: tagsSchema.shape.artist,
  album: tagsSchema.shape.album,
  year: tagsSchema.shape.year,
  genre: tagsSchema.shape.genre,
  comment: tagsSchema.shape.comment,
});

/** Sets tags of many programmes at once. */
export function TagsDialog({
  jobId,
  programmeIds,
  act,
  onClose,
}: {
  jobId: string;
  programmeIds: readonly string[];
  act: Act;
  onClose: () => void;
}) {
  const { register, handleSubmit, formState } = useForm<z.input<typeof schema>, unknown, z.output<typeof schema>>({
    resolver: zodResolver(schema),
    defaultValues: { artist: '', album: '', year: '', genre: '', comment: '' },
  });
  return (
    <Dialog
      title={messages.title(programmeIds.length)}
      description={messages.description}
      isOpen
      onOpenChange={(isOpen) => !isOpen && onClose()}
    >
      <form
        className="flex flex-col gap-3"
        noValidate
        onSubmit={handleSubmit((typed) => {
          const tags = Object.fromEntries(Object.entries(typed).filter(([, text]) => text !== ''));
          void act(() => askMany(jobId, programmeIds, { kind: 'tags', tags }), onClose);
        })}
      >
        {FIELDS.map((name) => (
          <Field key={name} label={messages[name]} problem={formState.errors[name]?.message} {...register(name)} />
        ))}
        <footer className="flex justify-end gap-2">
          <Button onClick={onClose}>{messages.cancel}</Button>
          <Button kind="primary" type="submit" whyNot={formState.isDirty ? null : messages.nothingChanged}>
            {messages.set}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}
