'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { type ReactNode, useRef, useState } from 'react';
import type { Resolver } from 'react-hook-form';
import type { ErrorRecord } from '@/core/errors/app-error';
import { formatIsrc, type Tags, tagsSchema } from '@/core/file-formats/tags';
import type { ActionResult } from '@/features/common/action-result';
import { FormProblem } from '@/features/common/form-problem';
import { sayUnreached } from '@/features/common/server-unreached';
import { submitForm } from '@/features/common/submit-form';
import type { Act } from '@/features/common/use-act';
import { useSharedForm } from '@/features/common/use-shared-form';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, LongField } from '@/ui/field';
import { keepTags } from './actions';
import { tagsDialogMessages as messages } from './messages';

const LINES: readonly (readonly [keyof Tags, string, string])[] = [
  ['title', messages.title, ''],
  ['artist', messages.artist, ''],
  ['album', messages.album, ''],
  ['track', messages.track, '3/8'],
  ['year', messages.year, '2026'],
  ['genre', messages.genre, ''],
  ['isrc', 'ISRC', 'CC-XXX-YY-NNNNN'],
];

/** A programme's tags, cover and markers, as its files will carry them. */
export function TagsDialog({ programme: { id, title, tags, cover }, act }: { programme: ProgrammeView; act: Act }) {
  const [isOpen, setIsOpen] = useState(false);
  const stated = Object.values(tags).filter((value) => value !== '').length + (cover ? 1 : 0);
  return (
    <Dialog
      trigger={<Button>{stated === 0 ? messages.tags : messages.tagsStated(stated)}</Button>}
      title={messages.tagsOf(title)}
      description={messages.whatItChanges}
      isOpen={isOpen}
      onOpenChange={setIsOpen}
    >
      <TagsForm programmeId={id} title={title} tags={tags} act={act} onDone={() => setIsOpen(false)}>
        <CoverField programmeId={id} cover={cover} title={title} act={act} />
      </TagsForm>
    </Dialog>
  );
}

function TagsForm({
  programmeId,
  title,
  tags,
  act,
  onDone,
  children,
}: {
  programmeId: string;
  /** Of the programme. */
  title: string;
  tags: Tags;
  act: Act;
  onDone: () => void;
  children: ReactNode;
}) {
  const shown: Tags = { ...tags, isrc: tags.isrc && formatIsrc(tags.isrc) };
  const form = useSharedForm<Tags>(shown, {
    // Its own types leave out nothing: a form has all of them.
    resolver: zodResolver(tagsSchema) as Resolver<Tags>,
    mode: 'onChange',
  });
  const { register, setValue } = form;
  const { errors, isValid, isSubmitting } = form.formState;
  const save = (typed: Tags) =>
    act(async () => {
      const result = await keepTags(programmeId, form.ofTyped(typed), tags).catch(sayUnreached);
      await submitForm(form, async () => result);
      return result;
    }, onDone);
  return (
    <form className="flex flex-col gap-3" noValidate onSubmit={form.handleSubmit(save)}>
      <div className="grid grid-cols-2 gap-3">
        {LINES.map(([name, label, placeholder]) => (
          <Field
            key={name}
            label={label}
            placeholder={placeholder}
            {...register(name)}
            problem={errors[name]?.message}
            remark={form.elsewhere(name)}
          />
        ))}
      </div>
      <LongField
        label={messages.comment}
        {...register('comment')}
        problem={errors.comment?.message}
        remark={form.elsewhere('comment')}
      />
      {children}
      <FormProblem>{errors.root?.message}</FormProblem>
      <span className="flex justify-end gap-2">
        <Button onClick={() => setValue('title', title, { shouldDirty: true, shouldValidate: true })}>
          {messages.useProgrammeTitle}
        </Button>
        <Button kind="primary" type="submit" disabled={!isValid || isSubmitting}>
          {messages.save}
        </Button>
      </span>
    </form>
  );
}

/** The picture that the files carry; it is kept as soon as it is chosen. */
function CoverField({
  programmeId,
  cover,
  title,
  act,
}: {
  programmeId: string;
  cover: string | null;
  title: string;
  act: Act;
}) {
  const file = useRef<HTMLInputElement>(null);
  const address = `/api/programmes/${programmeId}/cover`;
  return (
    <div className="flex items-center gap-3 text-sm">
      {cover ? (
        // biome-ignore lint/performance/noImgElement: it is on this machine, and already as large as it is.
        <img
          src={`${address}?v=${cover}`}
          alt={messages.coverOf(title)}
          className="size-16 rounded-control border border-hair object-cover"
        />
      ) : (
        <span className="grid size-16 place-items-center rounded-control border border-dashed border-hair text-xs text-mute">
          {messages.noCover}
        </span>
      )}
      <input
        ref={file}
        type="file"
        accept="image/png,image/jpeg"
        aria-label={messages.cover}
        className="sr-only"
        onChange={(event) => {
          const [chosen] = event.target.files ?? [];
          event.target.value = '';
          if (chosen) act(() => put(address, { method: 'PUT', body: chosen }));
        }}
      />
      <Button onClick={() => file.current?.click()}>{cover ? messages.replaceTheCover : messages.chooseACover}</Button>
      {cover ? (
        <Button onClick={() => act(() => put(address, { method: 'DELETE' }))}>{messages.removeTheCover}</Button>
      ) : null}
      <span className="text-xs text-mute">{messages.coverHint}</span>
    </div>
  );
}

async function put(address: string, init: RequestInit): Promise<ActionResult> {
  const response = await fetch(address, init);
  if (response.ok) return { ok: true, value: undefined };
  return { ok: false, error: ((await response.json()) as { error: ErrorRecord }).error };
}
