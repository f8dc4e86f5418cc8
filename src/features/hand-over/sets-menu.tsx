'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { X } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { Act } from '@/features/common/use-act';
import type { SetView } from '@/server/deliveries/rows';
import { Button } from '@/ui/button';
import { Field } from '@/ui/field';
import { addSetRows, forgetSet, keepSet, type Target } from './actions';
import { setNameSchema } from './inputs';
import { setsMenuMessages as messages } from './messages';

/** Saved sets of deliveries: added to the programmes that are shown, kept from the one that is, forgotten. */
export function SetsMenu({
  sets,
  target,
  measured,
  canKeep,
  act,
}: {
  sets: readonly SetView[];
  target: Target;
  /** How many programmes rows can be added to. */
  measured: number;
  /** There are rows of one programme that a set can be made of. */
  canKeep: boolean;
  act: Act;
}) {
  const [isOpen, setIsOpen] = useState(false);
  const { programmeId } = target;
  return (
    <Popover.Root open={isOpen} onOpenChange={setIsOpen}>
      <Popover.Trigger asChild>
        <Button>{messages.chooseASet}</Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          aria-label={messages.setsOfDeliveries}
          align="end"
          sideOffset={6}
          className="z-20 flex w-88 flex-col gap-3 rounded-card border border-hair bg-sheet p-4 shadow-lg"
        >
          {sets.length === 0 ? (
            <p className="text-sm text-mute">{messages.noSetsYet}</p>
          ) : (
            <ul className="flex max-h-72 flex-col gap-1 overflow-y-auto">
              {sets.map((set) => (
                <li key={set.id} className="flex items-center gap-1">
                  <button
                    type="button"
                    disabled={measured === 0}
                    className="grow cursor-pointer rounded-control px-2 py-1.5 text-left text-sm hover:bg-stock-1"
                    onClick={() => {
                      setIsOpen(false);
                      act(() => addSetRows(set.id, target));
                    }}
                  >
                    <strong>{set.name}</strong>
                    <span className="block text-xs text-mute">{messages.deliveries(set.rows.length, measured)}</span>
                  </button>
                  <Button
                    kind="quiet"
                    aria-label={messages.deleteTheSet(set.name)}
                    title={messages.deleteThisSet}
                    onClick={() => act(() => forgetSet(set.id))}
                  >
                    <X size={15} aria-hidden />
                  </Button>
                </li>
              ))}
            </ul>
          )}
          {canKeep && programmeId !== null ? (
            <KeepSetForm
              onKeep={(name) => {
                act(() => keepSet(name, programmeId));
                setIsOpen(false);
              }}
            />
          ) : null}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function KeepSetForm({ onKeep }: { onKeep: (name: string) => void }) {
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(setNameSchema),
    defaultValues: { name: '' },
  });
  return (
    <form
      className="flex items-end gap-2 border-t border-hair pt-3"
      noValidate
      onSubmit={handleSubmit(({ name }) => onKeep(name))}
    >
      <Field
        label={messages.saveRowsAs}
        placeholder={messages.seasonRelease}
        {...register('name')}
        problem={formState.errors.name?.message}
      />
      <Button type="submit">{messages.save}</Button>
    </form>
  );
}
