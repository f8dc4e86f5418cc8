import { useState } from 'react';
import { type FieldValues, type Path, type UseFormProps, useForm } from 'react-hook-form';
import { sharedFormMessages as messages } from './messages';

/**
 * A form of what others may change while it is open. A field that nobody has typed into follows what is set elsewhere; one that somebody
 * has typed into keeps that, and says what it is by now.
 *
 * @param values what is set now
 */
export function useSharedForm<V extends FieldValues>(
  values: V,
  options: Omit<UseFormProps<V>, 'values' | 'defaultValues' | 'resetOptions'> = {},
) {
  const form = useForm<V>({ ...options, values, resetOptions: { keepDirtyValues: true, keepErrors: true } });
  const { dirtyFields } = form.formState;
  const typed = Object.keys(values).filter((name) => name in dirtyFields);
  // What each field was when it was typed into.
  const [typedOver, setTypedOver] = useState(values);
  const moved = Object.keys(values).filter((name) => !typed.includes(name) && !isSame(typedOver[name], values[name]));
  if (moved.length > 0) setTypedOver({ ...typedOver, ...pick(values, moved) });
  return {
    ...form,
    /** Of some values, those of fields that were typed into. */
    ofTyped: (own: V): Partial<V> => pick(own, typed),
    /** What was set elsewhere of a field that was typed into, in words. */
    elsewhere: (name: Path<V>): string | undefined =>
      typed.includes(name) && !isSame(typedOver[name], values[name])
        ? messages.elsewhere(String(values[name] ?? ''))
        : undefined,
  };
}

/** Of text, or of what is ticked of a list. */
function isSame(one: unknown, other: unknown): boolean {
  return JSON.stringify(one) === JSON.stringify(other);
}

function pick<V extends FieldValues>(values: V, names: readonly string[]): Partial<V> {
  return Object.fromEntries(names.map((name) => [name, values[name]])) as Partial<V>;
}
