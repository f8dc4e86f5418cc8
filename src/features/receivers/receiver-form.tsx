'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { type NewReceiver, newReceiverFields } from '@/core/receiver/receiver';
import type { ActionResult } from '@/features/common/action-result';
import { FormProblem } from '@/features/common/form-problem';
import { submitForm } from '@/features/common/submit-form';
import type { TransportForm } from '@/server/receivers/transport';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { Segments } from '@/ui/segments';
import { receiverFormMessages as messages } from './messages';

/** Asks what a receiver is called, how it is reached, and what its transfers are signed with. */
export function ReceiverForm({
  title,
  action,
  transports,
  initial,
  hasSecret,
  onClose,
  save,
  onSaved,
}: {
  title: string;
  action: string;
  transports: readonly TransportForm[];
  initial: NewReceiver;
  /** It has one, which is never shown. */
  hasSecret: boolean;
  onClose: () => void;
  save: (receiver: NewReceiver) => Promise<ActionResult<string>>;
  /** With its id. */
  onSaved: (receiverId: string) => void;
}) {
  const form = useForm<NewReceiver>({ resolver: zodResolver(newReceiverFields), defaultValues: initial });
  const { errors, isSubmitting } = form.formState;
  const kind = form.watch('kind');
  const transport = transports.find((own) => own.kind === kind);
  if (!transport) return null;
  return (
    <Dialog
      title={title}
      description={transport.words}
      isOpen
      onOpenChange={(isOpen) => (isOpen ? undefined : onClose())}
    >
      <form
        className="flex flex-col gap-3"
        noValidate
        onSubmit={form.handleSubmit(async (receiver) => {
          const saved = await submitForm(form, () => save(receiver));
          if (saved) onSaved(saved.value);
        })}
      >
        <Segments
          label={messages.transport}
          value={kind}
          options={transports.map((own) => ({ value: own.kind, label: own.name }))}
          onChange={(own) => {
            form.setValue('kind', own);
            form.clearErrors();
          }}
        />
        <Field label={messages.name} {...form.register('name')} problem={errors.name?.message} />
        <Field
          label={transport.place === 'folder' ? messages.folder : messages.address}
          placeholder={transport.placeholder}
          spellCheck={false}
          {...form.register('address')}
          problem={errors.address?.message}
        />
        {transport.isSigned ? (
          <Field
            label={hasSecret ? messages.savedSecret : messages.sharedSecret}
            type="password"
            autoComplete="off"
            {...form.register('secret')}
            problem={errors.secret?.message}
          />
        ) : null}
        <FormProblem>{errors.root?.message}</FormProblem>
        <footer className="flex items-center justify-between gap-4">
          <p className="text-xs text-mute">{transport.isSigned ? messages.whatTheSecretDoes : ''}</p>
          <Button kind="primary" type="submit" disabled={isSubmitting}>
            {action}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}
