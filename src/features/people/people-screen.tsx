'use client';

import { useRouter } from 'next/navigation';
import { type FormEvent, useState } from 'react';
import { ROLES, type Role } from '@/core/access/rights';
import { formatMoment } from '@/core/units/format';
import { ErrorNotice } from '@/features/common/error-notice';
import { sendJson } from '@/features/common/send-json';
import { TopBar } from '@/features/common/top-bar';
import { type Act, useAct } from '@/features/common/use-act';
import type { PeopleView, PersonView } from '@/server/people/people';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { Field } from '@/ui/field';
import { peopleMessages as messages } from './messages';
import { Tokens } from './tokens';

const ROLE_OPTIONS = ROLES.map((role) => ({ value: role, label: messages.roles[role] }));

const BROWSERS: Readonly<Record<string, string>> = { Edg: 'Edge', OPR: 'Opera', Version: 'Safari' };

/** Who may use the app from a network, with what they have open; tokens of programs; who did what. */
export function PeopleScreen({
  view,
  jobs,
  isDemanded,
}: {
  view: PeopleView;
  jobs: readonly { id: string; name: string }[];
  isDemanded: boolean;
}) {
  const router = useRouter();
  const { act, error, clearError } = useAct(() => router.refresh());
  return (
    <div className="flex h-full flex-col">
      <TopBar current="people" />
      <main className="mx-auto flex w-full max-w-4xl grow flex-col gap-4 overflow-y-auto p-6">
        <h1 className="text-xl font-bold">{messages.people}</h1>
        {isDemanded ? null : <p className="text-sm text-mute">{messages.notDemanded}</p>}
        {error ? <ErrorNotice error={error} onClose={clearError} /> : null}
        <Card flush className="shrink-0">
          {view.people.length === 0 ? <p className="px-4 py-2.5 text-sm text-mute">{messages.nobody}</p> : null}
          <ul aria-label={messages.people}>
            {view.people.map((person) => (
              <PersonRow key={person.id} person={person} act={act} />
            ))}
          </ul>
        </Card>
        <AddPerson act={act} />
        <Tokens tokens={view.tokens} jobs={jobs} act={act} />
        <Log log={view.log} />
      </main>
    </div>
  );
}

/** What people call a browser, from the long name that it gives itself. */
function browserName(userAgent: string): string {
  const [, name, version] = /(Firefox|Edg|OPR|Chrome|Version)\/(\d+)/.exec(userAgent) ?? [];
  if (!name) return userAgent || messages.unknownBrowser;
  return `${BROWSERS[name] ?? name} ${version}`;
}

function PersonRow({ person: { id, name, role, sessions }, act }: { person: PersonView; act: Act }) {
  const [isSetting, setIsSetting] = useState(false);
  const change = (what: { role?: Role; passphrase?: string }) =>
    act(() => sendJson('PATCH', `/api/people/${id}`, what));
  const setPassphrase = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    setIsSetting(false);
    void change({ passphrase: String(new FormData(event.currentTarget).get('passphrase')) });
  };
  return (
    <li className="flex flex-col gap-1 border-b border-hair px-4 py-2.5 last:border-0">
      <span className="flex items-center gap-3">
        <span className="grow truncate font-bold">{name}</span>
        <Choice
          label={messages.roleOf(name)}
          compact
          value={role}
          options={ROLE_OPTIONS}
          onChange={(value) => void change({ role: value as Role })}
        />
        <Button kind="quiet" onClick={() => setIsSetting(!isSetting)} aria-label={messages.newPassphraseOf(name)}>
          {messages.newPassphrase}
        </Button>
        <Button
          kind="quiet"
          onClick={() => void act(() => sendJson('DELETE', `/api/people/${id}`))}
          aria-label={messages.removePerson(name)}
        >
          {messages.remove}
        </Button>
      </span>
      {isSetting ? (
        <form onSubmit={setPassphrase} className="flex items-start gap-2">
          <Field
            label={messages.passphrase}
            name="passphrase"
            type="password"
            minLength={12}
            maxLength={200}
            required
            autoComplete="new-password"
            hint={messages.passphraseHint}
          />
          <span className="pt-5">
            <Button type="submit">{messages.set}</Button>
          </span>
        </form>
      ) : null}
      {sessions.map((session) => (
        <span key={session.id} className="flex items-center gap-3 text-xs text-mute">
          <span className="min-w-0 grow truncate">
            {messages.session(browserName(session.browser), session.address, formatMoment(session.usedAtMs))}
          </span>
          <Button
            kind="quiet"
            onClick={() => void act(() => sendJson('DELETE', `/api/sessions/${session.id}`))}
            aria-label={messages.endSession(name)}
          >
            {messages.end}
          </Button>
        </span>
      ))}
    </li>
  );
}

function AddPerson({ act }: { act: Act }) {
  const [role, setRole] = useState<Role>('reviewer');
  const add = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const fields = new FormData(form);
    const person = { name: fields.get('name'), passphrase: fields.get('passphrase'), role };
    void act(
      () => sendJson('POST', '/api/people', person),
      () => form.reset(),
    );
  };
  return (
    <form onSubmit={add} className="flex items-start gap-3">
      <Field label={messages.name} name="name" required maxLength={80} autoComplete="off" />
      <Field
        label={messages.passphrase}
        name="passphrase"
        type="password"
        required
        minLength={12}
        maxLength={200}
        autoComplete="new-password"
        hint={messages.passphraseHint}
      />
      <span className="flex shrink-0 gap-3 pt-5">
        <Choice
          label={messages.role}
          value={role}
          options={ROLE_OPTIONS}
          onChange={(value) => setRole(value as Role)}
        />
        <Button type="submit">{messages.add}</Button>
      </span>
    </form>
  );
}

function Log({ log }: { log: PeopleView['log'] }) {
  return (
    <section aria-label={messages.log} className="flex flex-col gap-2">
      <h2 className="font-bold">{messages.log}</h2>
      {log.length === 0 ? <p className="text-sm text-mute">{messages.nothing}</p> : null}
      {log.length > 0 ? (
        <Card flush className="shrink-0">
          <table className="w-full text-sm">
            <thead className="text-left text-xs text-mute">
              <tr className="border-b border-hair">
                {[messages.time, messages.who, messages.what, messages.subject].map((name) => (
                  <th key={name} scope="col" className="px-4 py-2 font-semibold">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {log.map(({ id, atMs, who, what, subject }) => (
                <tr key={id} className="border-b border-hair last:border-0">
                  <td className="px-4 py-1.5 font-numbers whitespace-nowrap">{formatMoment(atMs)}</td>
                  <td className="px-4 py-1.5">{who}</td>
                  <td className="px-4 py-1.5">{what}</td>
                  <td className="px-4 py-1.5 break-all">{subject}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Card>
      ) : null}
    </section>
  );
}
