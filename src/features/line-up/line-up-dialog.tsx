'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { Controller, useForm } from 'react-hook-form';
import * as z from 'zod';
import { LINE_UP_KINDS, type LineUpKind } from '@/core/lineup/line-up';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { kindMessages, lineUpDialogMessages as messages } from './messages';

const schema = z.object({
  kind: z.enum(LINE_UP_KINDS),
  name: z.string().trim().min(1, messages.enterAName).max(120),
  programmeIds: z.array(z.string()).min(1, messages.chooseSome),
});
export type LineUpForm = z.infer<typeof schema>;

/** What a line-up is called, what kind it is, and which programmes are in it. */
export function LineUpDialog({
  title,
  programmes,
  initial,
  saveLabel,
  onSave,
  onClose,
}: {
  title: string;
  programmes: readonly { id: string; title: string }[];
  initial: LineUpForm;
  saveLabel: string;
  onSave: (form: LineUpForm) => void;
  onClose: () => void;
}) {
  const { register, control, handleSubmit, formState, setValue, watch } = useForm<LineUpForm>({
    resolver: zodResolver(schema),
    defaultValues: initial,
  });
  const chosen = watch('programmeIds');
  const choose = (ids: string[]) => setValue('programmeIds', ids, { shouldValidate: formState.isSubmitted });
  const { errors } = formState;
  return (
    <Dialog title={title} description={messages.description} isOpen onOpenChange={(isOpen) => !isOpen && onClose()}>
      <form onSubmit={handleSubmit(onSave)} className="flex min-h-0 flex-col gap-3">
        <div className="flex items-end gap-3">
          <Field label={messages.name} problem={errors.name?.message} {...register('name')} />
          <Controller
            control={control}
            name="kind"
            render={({ field }) => (
              <Choice
                label={messages.kind}
                value={field.value}
                options={LINE_UP_KINDS.map((kind: LineUpKind) => ({ value: kind, label: kindMessages[kind] }))}
                onChange={field.onChange}
              />
            )}
          />
        </div>
        <fieldset className="flex min-h-0 flex-col gap-1">
          <legend className="mb-1 flex w-full items-center gap-2 text-xs text-mute">
            {messages.programmes}
            <Button kind="inline" onClick={() => choose(programmes.map(({ id }) => id))}>
              {messages.all}
            </Button>
            <Button kind="inline" onClick={() => choose([])}>
              {messages.noneChosen}
            </Button>
          </legend>
          <ul className="min-h-0 overflow-y-auto rounded-control border border-hair">
            {programmes.map(({ id, title: name }) => (
              <li key={id} className="border-b border-hair last:border-b-0">
                <label className="flex cursor-pointer items-center gap-2 px-3 py-1 text-sm hover:bg-stock-1/60">
                  <input
                    type="checkbox"
                    checked={chosen.includes(id)}
                    onChange={(event) =>
                      // Those that are added follow those that were there, in the order in which they were chosen.
                      choose(event.target.checked ? [...chosen, id] : chosen.filter((own) => own !== id))
                    }
                  />
                  {name}
                </label>
              </li>
            ))}
          </ul>
          {errors.programmeIds?.message ? (
            <p role="alert" className="text-xs text-breach">
              ▲ {errors.programmeIds.message}
            </p>
          ) : null}
        </fieldset>
        <footer className="flex justify-end gap-2">
          <Button onClick={onClose}>{messages.cancel}</Button>
          <Button kind="primary" type="submit">
            {saveLabel}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}
