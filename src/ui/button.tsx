import type { ComponentProps } from 'react';
import { classNames } from './class-names';

const KINDS = {
  primary: 'bg-action text-on-action border-transparent hover:brightness-110',
  plain: 'bg-sheet text-ink border-hair hover:border-stock-3',
  quiet: 'bg-transparent text-slide-ink border-transparent hover:underline',
  /** As small as the line it stands in. */
  inline: 'bg-transparent text-slide-ink border-transparent hover:underline',
  bar: 'bg-[#ffffff] text-[#221d33] border-transparent hover:brightness-95',
} as const;

const LOOK =
  'inline-flex items-center justify-center gap-2 rounded-control border font-semibold whitespace-nowrap cursor-pointer transition-[filter,border-color] disabled:cursor-default disabled:opacity-50';

const SIZES: Record<keyof typeof KINDS, string> = {
  primary: 'px-3 py-1.5 text-sm',
  plain: 'px-3 py-1.5 text-sm',
  quiet: 'px-1 py-1.5 text-sm',
  inline: 'px-1 text-xs',
  bar: 'px-3 py-1.5 text-sm',
};

export function Button({
  kind = 'plain',
  whyNot,
  className,
  ...props
}: ComponentProps<'button'> & {
  kind?: keyof typeof KINDS;
  /** Why it can't be used now, which then is said in place of its hint; null where it can. */
  whyNot?: string | null | undefined;
}) {
  const refusal = whyNot ? { disabled: true, title: whyNot, 'aria-description': whyNot } : {};
  return (
    <button type="button" {...props} {...refusal} className={classNames(LOOK, SIZES[kind], KINDS[kind], className)} />
  );
}

/** A link that looks like a button: for what is fetched rather than done. */
export function ButtonLink({
  kind = 'plain',
  className,
  children,
  ...props
}: ComponentProps<'a'> & { kind?: keyof typeof KINDS }) {
  return (
    <a {...props} className={classNames(LOOK, SIZES[kind], KINDS[kind], className)}>
      {children}
    </a>
  );
}
