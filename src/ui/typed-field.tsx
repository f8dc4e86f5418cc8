'use client';

import { type KeyboardEvent, useState } from 'react';
import { classNames } from './class-names';

/**
 * A value that is typed: shown as it is, taken on Enter or when it is left, given back on Escape. With a step, the arrow
 * keys change it, with Shift ten times as far.
 */
export function TypedField<T>({
  label,
  value,
  format,
  parse,
  onCommit,
  onStep,
  isLabelled = true,
  isText = false,
  className,
}: {
  label: string;
  value: T;
  format: (value: T) => string;
  /** Undefined where it is not what is wanted. */
  parse: (text: string) => T | undefined;
  onCommit: (value: T) => void;
  /** @param steps 1 or −1, or ten of them */
  onStep?: (steps: number) => void;
  isLabelled?: boolean;
  /** Words, not a number: they begin at the left. */
  isText?: boolean;
  className?: string;
}) {
  const [typed, setTyped] = useState<string>();
  const parsed = typed === undefined ? undefined : parse(typed);
  const commit = () => {
    if (parsed !== undefined) onCommit(parsed);
    setTyped(undefined);
  };
  const press = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'Enter') commit();
    else if (event.key === 'Escape') setTyped(undefined);
    else if (onStep && (event.key === 'ArrowUp' || event.key === 'ArrowDown')) {
      event.preventDefault();
      setTyped(undefined);
      onStep((event.key === 'ArrowUp' ? 1 : -1) * (event.shiftKey ? 10 : 1));
    } else return;
    event.stopPropagation();
  };
  const field = (
    <input
      aria-label={isLabelled ? undefined : label}
      autoComplete="off"
      spellCheck={false}
      value={typed ?? format(value)}
      aria-invalid={typed !== undefined && parsed === undefined}
      onChange={(event) => setTyped(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={commit}
      onKeyDown={press}
      className={classNames(
        'rounded-control border border-stock-3 bg-sheet px-2 py-0.5 font-mono text-[13px] hover:border-stock-ink aria-invalid:border-breach aria-invalid:text-breach',
        isText ? 'text-left' : 'text-right',
        className ?? 'w-28',
      )}
    />
  );
  if (!isLabelled) return field;
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the field is in it.
    <label className="flex items-center justify-between gap-3 text-[13px]">
      {label}
      {field}
    </label>
  );
}
