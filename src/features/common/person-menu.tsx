'use client';

import { WorkLink } from '@/ui/work-link';
import { personMenuMessages as messages } from './messages';
import { sendJson } from './send-json';
import { usePerson } from './use-person';

/** Who has signed in, and how they sign out; nothing where nobody has to. */
export function PersonMenu({ isAtPeople = false }: { isAtPeople?: boolean }) {
  const person = usePerson();
  if (!person) return null;
  const signOut = async () => {
    await sendJson('POST', '/api/sign-out');
    window.location.assign('/sign-in');
  };
  return (
    <span className="flex items-center gap-3 text-sm whitespace-nowrap">
      <span className="text-bar-text">{messages.person(person.name, person.role)}</span>
      {person.role === 'engineer' ? (
        <WorkLink
          href="/people"
          aria-current={isAtPeople ? 'page' : undefined}
          className={`font-semibold hover:text-on-action ${isAtPeople ? 'text-on-action' : 'text-bar-text'}`}
        >
          {messages.people}
        </WorkLink>
      ) : null}
      <button
        type="button"
        onClick={() => void signOut()}
        className="cursor-pointer font-semibold text-bar-text hover:text-on-action"
      >
        {messages.signOut}
      </button>
    </span>
  );
}
