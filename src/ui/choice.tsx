'use client';

import { Check, ChevronDown } from 'lucide-react';
import { Select } from 'radix-ui';
import { classNames } from './class-names';

export interface ChoiceOption {
  value: string;
  label: string;
  detail?: string;
}

/** One of several, from a list that opens. */
export function Choice({
  label,
  value,
  options,
  onChange,
  compact = false,
  placeholder,
}: {
  label: string;
  value: string;
  options: readonly ChoiceOption[];
  onChange: (value: string) => void;
  /** As small as the words around it. */
  compact?: boolean;
  /** Shown where nothing is chosen. */
  placeholder?: string;
}) {
  return (
    <Select.Root value={value} onValueChange={onChange}>
      <Select.Trigger
        aria-label={label}
        // Letters and Space belong to the page's own keys; a closed list must not jump to an entry behind one's back.
        onKeyDown={(event) => {
          if (event.key.length === 1) event.preventDefault();
        }}
        className={classNames(
          'inline-flex max-w-full cursor-pointer items-center rounded-control border border-hair bg-sheet font-semibold hover:border-stock-3',
          compact ? 'gap-1 px-2 py-0.5 text-xs' : 'gap-2 px-3 py-1.5 text-sm',
        )}
      >
        <span className="truncate">
          {/* Said here, since the list is not there before it is opened. */}
          <Select.Value placeholder={placeholder}>
            {options.find((option) => option.value === value)?.label}
          </Select.Value>
        </span>
        <Select.Icon>
          <ChevronDown size={compact ? 14 : 16} aria-hidden />
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          className="z-50 max-h-(--radix-select-content-available-height) overflow-hidden rounded-card border border-hair bg-sheet shadow-lg"
        >
          <Select.Viewport className="p-1">
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                className="flex cursor-pointer items-baseline gap-2 rounded-control py-1.5 pr-3 pl-7 text-sm outline-none data-[highlighted]:bg-stock-1"
              >
                <Select.ItemIndicator className="-ml-5 w-3">
                  <Check size={14} aria-hidden />
                </Select.ItemIndicator>
                <Select.ItemText>{option.label}</Select.ItemText>
                {option.detail ? <span className="ml-auto pl-6 text-xs text-mute">{option.detail}</span> : null}
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
