import type { ReactNode } from 'react';
import { classNames } from './class-names';

/** A sheet with a title, a remark at its right, and a body. */
export function Card({
  title,
  remark,
  children,
  flush = false,
  dense = false,
  className,
}: {
  title?: ReactNode;
  remark?: ReactNode;
  children: ReactNode;
  /** The body reaches the edges, as a table's does. */
  flush?: boolean;
  /** Where every line counts. */
  dense?: boolean;
  className?: string;
}) {
  return (
    <section
      className={classNames(
        'rounded-card border border-hair bg-sheet',
        !flush && (dense ? 'px-4 py-1.5' : 'px-4 py-2.5'),
        className,
      )}
    >
      {title ? (
        <header className={classNames('flex items-baseline justify-between gap-4', !dense && 'mb-1')}>
          <h2 className="text-sm font-bold">{title}</h2>
          <p className="text-xs text-mute">{remark}</p>
        </header>
      ) : null}
      {children}
    </section>
  );
}
