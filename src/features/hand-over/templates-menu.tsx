'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { Download, X } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useRef, useState } from 'react';
import { useForm } from 'react-hook-form';
import type { Act } from '@/features/common/use-act';
import type { TemplateView } from '@/server/deliveries/templates';
import { Button, ButtonLink } from '@/ui/button';
import { Field } from '@/ui/field';
import { applyTemplate, forgetTemplate, importTemplate, saveRowsAsTemplate, type Target } from './actions';
import { templateNameSchema } from './inputs';
import { templatesMenuMessages as messages } from './messages';

/** Templates: applied to the programmes that are shown, kept from the one that is, brought in, saved as files, deleted. */
export function TemplatesMenu({
  templates,
  target,
  measured,
  canSave,
  act,
  edit,
}: {
  templates: readonly TemplateView[];
  target: Target;
  /** How many programmes a template can be applied to. */
  measured: number;
  /** There are rows of one programme that a template can be made of. */
  canSave: boolean;
  act: Act;
  /** Of what can be taken back. */
  edit: Act;
}) {
  const [isOpen, setIsOpen] = useState(false);
  const { programmeId } = target;
  const listed = (isBuiltIn: boolean) => templates.filter((own) => own.isBuiltIn === isBuiltIn);
  const list = (some: readonly TemplateView[]) => (
    <ul className="flex flex-col gap-1">
      {some.map((template) => (
        <Item
          key={template.id}
          template={template}
          measured={measured}
          onApply={() => {
            setIsOpen(false);
            void edit(() => applyTemplate(template.id, target));
          }}
          onForget={() => void act(() => forgetTemplate(template.id))}
        />
      ))}
    </ul>
  );
  return (
    <Popover.Root open={isOpen} onOpenChange={setIsOpen}>
      <Popover.Trigger asChild>
        <Button>{messages.choose}</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={messages.heading}
          align="end"
          sideOffset={6}
          className="z-20 flex w-96 flex-col gap-3 rounded-card border border-hair bg-sheet p-4 shadow-lg"
        >
          <p className="text-xs text-mute">{messages.hint}</p>
          <div className="flex max-h-80 flex-col gap-2 overflow-y-auto">
            {listed(false).length > 0 ? <h3 className="text-xs text-mute">{messages.own}</h3> : null}
            {list(listed(false))}
            <h3 className="text-xs text-mute">{messages.builtIn}</h3>
            {list(listed(true))}
          </div>
          <Import onText={(text) => void act(() => importTemplate(text))} />
          {canSave && programmeId !== null ? (
            <SaveForm
              onSave={(name, more) => {
                void act(() => saveRowsAsTemplate(name, programmeId, more));
                setIsOpen(false);
              }}
            />
          ) : null}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Item({
  template: { id, name, rows, treatment, nameTemplate, isBuiltIn },
  measured,
  onApply,
  onForget,
}: {
  template: TemplateView;
  measured: number;
  onApply: () => void;
  onForget: () => void;
}) {
  const more = [...(treatment ? [messages.treatment] : []), ...(nameTemplate === null ? [] : [messages.names])];
  return (
    <li className="flex items-center gap-1">
      <button
        type="button"
        disabled={measured === 0}
        title={measured === 0 ? messages.nothingMeasured : undefined}
        className="grow cursor-pointer rounded-control px-2 py-1.5 text-left text-sm hover:bg-stock-1"
        onClick={onApply}
      >
        <strong>{name}</strong>
        <span className="block text-xs text-mute">{messages.about(rows.length, measured, more)}</span>
      </button>
      <ButtonLink
        kind="quiet"
        href={`/api/templates/${id}`}
        download
        aria-label={messages.download(name)}
        title={messages.download(name)}
      >
        <Download size={15} aria-hidden />
      </ButtonLink>
      {isBuiltIn ? null : (
        <Button kind="quiet" aria-label={messages.remove(name)} title={messages.remove(name)} onClick={onForget}>
          <X size={15} aria-hidden />
        </Button>
      )}
    </li>
  );
}

function Import({ onText }: { onText: (text: string) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept="application/json,.json"
        aria-label={messages.bringIn}
        className="hidden"
        onChange={async (event) => {
          const [file] = event.target.files ?? [];
          if (file) onText(await file.text());
        }}
      />
      <Button kind="inline" onClick={() => input.current?.click()}>
        {messages.bringIn}
      </Button>
    </>
  );
}

function SaveForm({
  onSave,
}: {
  onSave: (name: string, more: { withTreatment: boolean; withNames: boolean }) => void;
}) {
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(templateNameSchema),
    defaultValues: { name: '' },
  });
  const [more, setMore] = useState({ withTreatment: true, withNames: false });
  const box = (name: keyof typeof more) => (
    <label className="flex items-center gap-2 text-sm">
      <input
        type="checkbox"
        checked={more[name]}
        onChange={(event) => setMore({ ...more, [name]: event.target.checked })}
      />
      {messages[name]}
    </label>
  );
  return (
    <form
      className="flex flex-col gap-2 border-t border-hair pt-3"
      noValidate
      onSubmit={handleSubmit(({ name }) => onSave(name, more))}
    >
      <div className="flex items-end gap-2">
        <Field
          label={messages.saveAs}
          placeholder={messages.example}
          {...register('name')}
          problem={formState.errors.name?.message}
        />
        <Button type="submit">{messages.save}</Button>
      </div>
      <div className="flex gap-4">
        {box('withTreatment')}
        {box('withNames')}
      </div>
    </form>
  );
}
