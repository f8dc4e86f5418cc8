import type { ComponentProps } from 'react';

const LOOK =
  'w-full rounded-control border border-hair bg-sheet px-3 py-1.5 text-sm text-ink placeholder:text-mute/80 hover:border-stock-3';

/** A line of text with its label above. */
export function Field({ label, ...props }: ComponentProps<'input'> & { label: string }) {
  return (
    <label className="flex grow flex-col gap-1 text-xs text-mute">
      {label}
      <input {...props} className={LOOK} />
    </label>
  );
}

/** Several lines of text with their label above. */
export function LongField({ label, ...props }: ComponentProps<'textarea'> & { label: string }) {
  return (
    <label className="flex grow flex-col gap-1 text-xs text-mute">
      {label}
      <textarea rows={3} {...props} className={LOOK} />
    </label>
  );
}
