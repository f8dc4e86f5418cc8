import { type ComponentProps, useId } from 'react';
import { classNames } from './class-names';

const LOOK =
  'w-full rounded-control border bg-sheet px-3 py-1.5 text-sm text-ink placeholder:text-mute hover:border-stock-ink';

interface Labelled {
  label: string;
  /** What is wrong with what stands in it; said below it, and to whoever is told of it. */
  problem?: string | undefined;
  /** What is to be known of what stands in it, though nothing is wrong. */
  remark?: string | undefined;
}

interface Hinted extends Labelled {
  /** What may stand in it. */
  hint?: string;
}

/** A line of text with its label above, and what is wrong with it below. */
export function Field({ label, problem, remark, hint, ...props }: ComponentProps<'input'> & Hinted) {
  const id = useId();
  return (
    <label className="flex grow flex-col gap-1 text-xs text-mute">
      {label}
      <input {...props} {...problemProps(problem, id)} className={look(problem)} />
      {hint}
      <Problem id={id}>{problem}</Problem>
      <Remark>{remark}</Remark>
    </label>
  );
}

/** Several lines of text with their label above. */
export function LongField({ label, problem, remark, ...props }: ComponentProps<'textarea'> & Labelled) {
  const id = useId();
  return (
    <label className="flex grow flex-col gap-1 text-xs text-mute">
      {label}
      <textarea rows={3} {...props} {...problemProps(problem, id)} className={look(problem)} />
      <Problem id={id}>{problem}</Problem>
      <Remark>{remark}</Remark>
    </label>
  );
}

function look(problem: string | undefined): string {
  return classNames(LOOK, problem === undefined ? 'border-stock-3' : 'border-breach');
}

function problemProps(problem: string | undefined, id: string) {
  return problem === undefined ? {} : { 'aria-invalid': true, 'aria-describedby': id };
}

function Remark({ children }: { children: string | undefined }) {
  if (children === undefined) return null;
  return (
    <span role="status" className="text-advice">
      ○ {children}
    </span>
  );
}

function Problem({ id, children }: { id: string; children: string | undefined }) {
  if (children === undefined) return null;
  return (
    <span id={id} role="alert" className="text-breach">
      ▲ {children}
    </span>
  );
}
