'use client';

import { ToggleGroup } from 'radix-ui';
import type { ReactNode } from 'react';
import { classNames } from './class-names';

export interface SegmentOption<T extends string> {
  value: T;
  label: ReactNode;
  /** Where the label alone does not say it. */
  name?: string;
  hint?: string;
}

/** One of a few that are all seen. */
export function Segments<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly SegmentOption<T>[];
  onChange: (value: T) => void;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      value={value}
      aria-label={label}
      onValueChange={(next) => next && onChange(next as T)}
      className="inline-flex rounded-control border border-hair bg-paper p-0.5"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          aria-label={option.name}
          title={option.hint}
          className="cursor-pointer rounded-[6px] px-2 text-xs leading-5 font-semibold whitespace-nowrap text-mute data-[state=on]:bg-sheet data-[state=on]:text-ink data-[state=on]:shadow-[0_0_0_1px_var(--color-stock-2)]"
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

/** Something that is on or off. */
export function Switch({
  label,
  isOn,
  onChange,
  hint,
  compact = false,
  className,
  children,
}: {
  label?: string;
  isOn: boolean;
  onChange: (isOn: boolean) => void;
  hint?: string;
  /** As small as the words around it. */
  compact?: boolean;
  className?: string;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-pressed={isOn}
      aria-label={label}
      title={hint}
      onClick={() => onChange(!isOn)}
      className={classNames(
        'inline-flex cursor-pointer items-center gap-1 rounded-control border border-hair font-semibold whitespace-nowrap text-mute hover:border-stock-3 aria-pressed:border-slide-2 aria-pressed:bg-slide-1 aria-pressed:text-slide-ink',
        compact ? 'px-1.5 text-[11px] leading-4' : 'px-2 text-xs leading-6',
        className,
      )}
    >
      {children}
    </button>
  );
}
