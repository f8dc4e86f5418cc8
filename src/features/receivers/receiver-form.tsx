'use client';

import { useState } from 'react';
import {
  type NewReceiver,
  newReceiverSchema,
  RECEIVER_KIND_NAMES,
  RECEIVER_KIND_WORDS,
  RECEIVER_KINDS,
  type ReceiverKind,
} from '@/core/receiver/receiver';
import { StateMark } from '@/features/common/state-mark';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field } from '@/ui/field';
import { Segments } from '@/ui/segments';

/** Asks what a receiver is called, how it is reached, and what its lines are signed with. */
export function ReceiverForm({
  title,
  action,
  initial,
  hasSecret,
  onClose,
  onDone,
}: {
  title: string;
  action: string;
  initial: NewReceiver;
  /** It has one, which is never shown. */
  hasSecret: boolean;
  onClose: () => void;
  onDone: (receiver: NewReceiver) => void;
}) {
  const [receiver, setReceiver] = useState(initial);
  const [problem, setProblem] = useState<string>();
  const set = (change: Partial<NewReceiver>) => setReceiver({ ...receiver, ...change });
  const { name, kind, address, secret } = receiver;
  const isFolder = kind === 'drop-folder';
  return (
    <Dialog
      title={title}
      description={RECEIVER_KIND_WORDS[kind]}
      isOpen
      onOpenChange={(isOpen) => (isOpen ? undefined : onClose())}
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          const parsed = newReceiverSchema.safeParse(receiver);
          setProblem(parsed.success ? undefined : parsed.error.issues[0]?.message);
          if (parsed.success) onDone(parsed.data);
        }}
      >
        <Segments<ReceiverKind>
          label="Transport"
          value={kind}
          options={RECEIVER_KINDS.map((own) => ({ value: own, label: RECEIVER_KIND_NAMES[own] }))}
          onChange={(own) => set({ kind: own })}
        />
        <Field label="Name" value={name} onChange={(event) => set({ name: event.target.value })} />
        <Field
          label={isFolder ? 'Folder (full path)' : 'Address'}
          value={address}
          placeholder={isFolder ? '/mnt/playout/in' : 'https://'}
          spellCheck={false}
          onChange={(event) => set({ address: event.target.value })}
        />
        {isFolder ? null : (
          <Field
            label={hasSecret ? 'Secret: one is saved; leave empty to keep it' : 'Shared secret'}
            type="password"
            autoComplete="off"
            value={secret}
            onChange={(event) => set({ secret: event.target.value })}
          />
        )}
        {problem ? (
          <p role="alert" className="text-sm text-breach">
            <StateMark state="over" /> {problem}
          </p>
        ) : null}
        <footer className="flex items-center justify-between gap-4">
          <p className="text-xs text-mute">
            {isFolder ? '' : 'Transfers are signed with the secret, which is never sent or shown.'}
          </p>
          <Button kind="primary" type="submit">
            {action}
          </Button>
        </footer>
      </form>
    </Dialog>
  );
}
