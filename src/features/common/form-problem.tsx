import { StateMark } from './state-mark';

/** What is wrong with a form as a whole; nothing where nothing is. */
export function FormProblem({ children }: { children: string | undefined }) {
  if (children === undefined) return null;
  return (
    <p role="alert" className="text-sm text-breach">
      <StateMark state="over" /> {children}
    </p>
  );
}
