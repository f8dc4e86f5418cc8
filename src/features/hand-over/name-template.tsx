'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { useState } from 'react';
import { DEFAULT_TEMPLATE, fileStem, NAME_FIELDS, unknownFields } from '@/core/delivery/file-name';
import type { Act } from '@/features/common/use-act';
import { useSharedForm } from '@/features/common/use-shared-form';
import type { RowView } from '@/server/deliveries/sheet';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { renameDeliveries } from './actions';
import { nameTemplateSchema } from './inputs';
import { nameTemplateMessages as messages } from './messages';

const EXAMPLE = {
  title: messages.nightfall,
  spec: 'ebu-r128',
  rate: 48_000,
  version: 3,
  job: messages.season,
  format: '24bit',
  depth: '24bit',
  track: 1,
};

/** How a job's files are named, with an example that follows what is typed. */
export function NameTemplate({
  jobId,
  template,
  example,
  act,
}: {
  jobId: string;
  template: string;
  /** Whose name is shown. */
  example: RowView | undefined;
  act: Act;
}) {
  const [isOpen, setIsOpen] = useState(false);
  return (
    <Dialog
      trigger={
        <button type="button" className="min-w-0 cursor-pointer truncate text-sm text-mute hover:underline">
          {messages.named} <span className="font-mono text-xs text-ink">{template}</span>
        </button>
      }
      title={messages.fileNames}
      description={messages.whatItChanges}
      isOpen={isOpen}
      onOpenChange={setIsOpen}
    >
      <TemplateForm
        template={template}
        example={example}
        onSave={(chosen) => {
          setIsOpen(false);
          act(() => renameDeliveries(jobId, chosen === DEFAULT_TEMPLATE ? null : chosen, template));
        }}
      />
    </Dialog>
  );
}

function TemplateForm({
  template,
  example,
  onSave,
}: {
  template: string;
  example: RowView | undefined;
  onSave: (template: string) => void;
}) {
  const { register, handleSubmit, formState, watch, setValue, elsewhere } = useSharedForm(
    { template },
    { resolver: zodResolver(nameTemplateSchema) },
  );
  const text = watch('template');
  const type = (typed: string) => setValue('template', typed, { shouldDirty: true, shouldValidate: true });
  const unknown = unknownFields(text);
  const name = `${fileStem(text, example?.nameFields ?? EXAMPLE)}.${example?.extension ?? 'wav'}`;
  return (
    <form className="flex flex-col gap-3" noValidate onSubmit={handleSubmit((typed) => onSave(typed.template))}>
      <Field
        label={messages.template}
        spellCheck={false}
        {...register('template')}
        problem={formState.errors.template?.message}
        remark={elsewhere('template')}
      />
      <p className="flex flex-wrap gap-1.5 text-xs text-mute">
        {NAME_FIELDS.map((field) => (
          <button
            key={field}
            type="button"
            className="cursor-pointer rounded-sm border border-hair px-1.5 font-mono hover:border-stock-3"
            onClick={() => type(`${text}{${field}}`)}
          >
            {`{${field}}`}
          </button>
        ))}
      </p>
      <p className="text-sm">
        {messages.example} <output className="font-mono text-xs font-semibold">{name}</output>
      </p>
      {unknown.length > 0 ? (
        <p role="alert" className="text-sm text-breach">
          {messages.unknownFields(unknown.map((own) => `{${own}}`).join(', '), unknown.length)}
        </p>
      ) : null}
      <span className="flex justify-end gap-2">
        <Button onClick={() => type(DEFAULT_TEMPLATE)}>{messages.reset}</Button>
        <Button kind="primary" type="submit">
          {messages.save}
        </Button>
      </span>
    </form>
  );
}
