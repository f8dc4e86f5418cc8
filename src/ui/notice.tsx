import type { ReactNode } from 'react';
import { noticeMessages as messages } from './messages';

/** Something went wrong: what happened, what is safe, what to do. Announced to screen readers at once. */
export function Notice({ children, onClose }: { children: ReactNode; onClose?: () => void }) {
  return (
    <div
      role="alert"
      className="flex items-start gap-3 rounded-card border border-breach-line/40 bg-breach-1 px-4 py-2 text-sm text-breach"
    >
      <span aria-hidden>▲</span>
      <div className="grow">{children}</div>
      {onClose ? (
        <button type="button" onClick={onClose} className="cursor-pointer font-semibold hover:underline">
          {messages.close}
        </button>
      ) : null}
    </div>
  );
}
