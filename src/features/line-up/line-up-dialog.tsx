'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { Controller, useForm } from 'react-hook-form';
import * as z from 'zod';
import { parseIsrc } from '@/core/file-formats/tags';
import { LINE_UP_KINDS, type LineUpKind, recordSettings } from '@/core/lineup/line-up';
import { USUAL_LIMITER } from '@/core/treatment/steps/limit';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { kindMessages, lineUpDialogMessages as messages } from './messages';

const schema = z.object({
  kind: z.enum(LINE_UP_KINDS),
  name: z.string().trim().min(1, messages.enterAName).max(120),
  programmeIds: z.array(z.string()).min(1, messages.chooseSome),
  record: recordSettings,
  /** All programmes are numbered on from it; empty where their ISRCs stay. */
  firstIsrc: z
    .string()
    .trim()
    .refine((text) => text === '' || parseIsrc(text) !== undefined, messages.noIsrc)
    .default(''),
});
export type LineUpForm = z.output<typeof schema>;
type Typed = z.input<typeof schema>;

/** What a line-up is called, what kind it is, and which programmes are in it. */
export function LineUpDialog({
  title,
  programmes,
  initial,
  ceilingDb,
  saveLabel,
  onSave,
  onClose,
}: {
  title: string;
  programmes: readonly { id: string; title: string }[];
  initial: LineUpForm;
  /** Of its spec: where a limiter over the whole begins. */
  ceilingDb: number;
  saveLabel: string;
  onSave: (form: LineUpForm) => void;
  onClose: () => void;
}) {
  const { register, control, handleSubmit, formState, setValue, watch } = useForm<Typed, unknown, LineUpForm>({
    resolver: zodResolver(schema),
    defaultValues: initial,
  });
  const [chosen, kind, isForCd, limit] = watch(['programmeIds', 'kind', 'record.isForCd', 'record.limit']);
  // What was in it stands first, so that nothing moves while one chooses.
  const wasIn = ({ id }: { id: string }) => initial.programmeIds.includes(id);
  const listed = [...programmes.filter(wasIn), ...programmes.filter((own) => !wasIn(own))];
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
        {kind === 'record' || kind === 'parts' || kind === 'book' ? (
          <fieldset className="grid gap-3 sm:grid-cols-2">
            <Field label={messages.artist} problem={errors.record?.artist?.message} {...register('record.artist')} />
            <Field
              label={messages.catalogNumber}
              problem={errors.record?.catalogNumber?.message}
              {...register('record.catalogNumber')}
            />
            <Field
              label={messages.firstIsrc}
              placeholder={messages.isrcExample}
              problem={errors.firstIsrc?.message}
              {...register('firstIsrc')}
            />
            <span />
            <label className="flex items-center gap-2 text-sm">
              <input type="checkbox" {...register('record.isForCd')} />
              {messages.isForCd}
            </label>
            {isForCd ? (
              <Field
                label={messages.pregap}
                problem={errors.record?.pregapSeconds && messages.enterANumber}
                {...register('record.pregapSeconds', { valueAsNumber: true })}
              />
            ) : (
              <span />
            )}
            <label className="flex items-center gap-2 text-sm sm:col-span-2">
              <input
                type="checkbox"
                checked={limit != null}
                onChange={(event) =>
                  setValue('record.limit', event.target.checked ? { ...USUAL_LIMITER, ceilingDbtp: ceilingDb } : null)
                }
              />
              {messages.hasLimit}
            </label>
            {limit ? (
              <Field
                label={messages.ceiling}
                problem={errors.record?.limit && messages.enterANumber}
                {...register('record.limit.ceilingDbtp', { valueAsNumber: true })}
              />
            ) : null}
          </fieldset>
        ) : null}
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
          <ul className="max-h-[max(8rem,calc(100dvh-36rem))] overflow-y-auto rounded-control border border-hair">
            {listed.map(({ id, title: name }) => (
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
