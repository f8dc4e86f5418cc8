'use client';

import { useForm } from 'react-hook-form';
import type { LineFields, LineInput } from '@/core/live/line';
import type { ActionResult } from '@/features/common/action-result';
import { FormProblem } from '@/features/common/form-problem';
import { specOptions, useSpecs } from '@/features/common/specs';
import { submitForm } from '@/features/common/submit-form';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { Segments } from '@/ui/segments';
import { lineFormMessages as messages } from './messages';

export type LineFormFields = Pick<LineFields, 'name' | 'input' | 'jobId' | 'specId'>;

interface Typed {
  name: string;
  kind: LineInput['kind'];
  address: string;
  jobId: string;
  specId: string;
}

/** No spec of its own, in a list whose entries all have a value. */
const OF_JOB = '-';

/** Asks what a line is called, where it comes from, which job its recordings go to and what it is judged by. */
export function LineForm({
  title,
  action,
  initial,
  jobs,
  whyNoDelete,
  onClose,
  save,
  onSaved,
  onDelete,
}: {
  title: string;
  action: string;
  initial: LineFormFields;
  jobs: readonly { id: string; name: string }[];
  /** Why it can't be deleted now; null where it can. */
  whyNoDelete?: string | null;
  onClose: () => void;
  save: (line: LineFormFields) => Promise<ActionResult<string>>;
  /** With its id. */
  onSaved: (lineId: string) => void;
  /** Absent of a line that is not there yet. */
  onDelete?: () => void;
}) {
  const { input } = initial;
  const form = useForm<Typed>({
    defaultValues: {
      name: initial.name,
      kind: input.kind,
      address: input.kind === 'stream' ? input.address : '',
      jobId: initial.jobId,
      specId: initial.specId ?? OF_JOB,
    },
  });
  const { errors, isSubmitting } = form.formState;
  const [kind, jobId, specId] = form.watch(['kind', 'jobId', 'specId']);
  const specs = useSpecs();
  const submit = form.handleSubmit(async (typed) => {
    const wanted: LineFormFields = {
      name: typed.name,
      input: inputOf(typed, input),
      jobId: typed.jobId,
      specId: typed.specId === OF_JOB ? null : typed.specId,
    };
    const saved = await submitForm(form, async () => {
      const result = await save(wanted);
      if (result.ok || result.field?.name !== 'input.address') return result;
      return { ...result, field: { ...result.field, name: 'address' } };
    });
    if (saved) onSaved(saved.value);
  });
  return (
    <Dialog
      title={title}
      description={messages.about}
      isOpen
      onOpenChange={(isOpen) => (isOpen ? undefined : onClose())}
    >
      <form className="flex flex-col gap-3" noValidate onSubmit={submit}>
        <Field
          label={messages.name}
          {...form.register('name', { required: messages.enterName })}
          problem={errors.name?.message}
        />
        <div className="flex flex-col gap-1 text-xs text-mute">
          {messages.kind}
          <span>
            <Segments
              label={messages.kind}
              value={kind}
              options={(['stream', 'input', 'simulated'] as const).map((value) => ({
                value,
                label: messages.kinds[value],
              }))}
              onChange={(value) => form.setValue('kind', value)}
            />
          </span>
        </div>
        {kind === 'stream' ? (
          <>
            <Field
              label={messages.address}
              placeholder={messages.addressExample}
              spellCheck={false}
              {...form.register('address', { required: messages.enterAddress })}
              problem={errors.address?.message}
            />
            <p className="-mt-2 text-xs text-mute">{messages.addressRemark}</p>
          </>
        ) : null}
        {kind === 'input' ? <p className="-mt-1 text-xs text-mute">{messages.inputRemark}</p> : null}
        <div className="flex flex-wrap gap-6 text-xs text-mute">
          <span className="flex flex-col items-start gap-1">
            {messages.job}
            <Choice
              label={messages.job}
              value={jobId}
              options={jobs.map(({ id, name }) => ({ value: id, label: name }))}
              onChange={(value) => form.setValue('jobId', value)}
            />
          </span>
          <span className="flex flex-col items-start gap-1">
            {messages.spec}
            <Choice
              label={messages.spec}
              value={specId}
              options={[{ value: OF_JOB, label: messages.specOfJob }, ...specOptions(specs)]}
              onChange={(value) => form.setValue('specId', value)}
            />
          </span>
        </div>
        <FormProblem>{errors.root?.message}</FormProblem>
        <footer className="flex items-center justify-between gap-4">
          {onDelete ? (
            <Button kind="quiet" whyNot={whyNoDelete} onClick={onDelete}>
              {messages.delete}
            </Button>
          ) : (
            <span />
          )}
          <Button kind="primary" type="submit" disabled={isSubmitting}>
            {action}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}

/** What else belongs to where it comes from stays, unless it comes from elsewhere. */
function inputOf({ kind, address }: Typed, before: LineInput): LineInput {
  switch (kind) {
    case 'stream':
      return { kind, address };
    case 'input':
      return before.kind === 'input' ? before : { kind, device: '' };
    case 'simulated':
      return before.kind === 'simulated' ? before : { kind, faults: [] };
  }
}
