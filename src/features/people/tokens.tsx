'use client';

import { type FormEvent, useState } from 'react';
import { formatMoment } from '@/core/units/format';
import { sendJson } from '@/features/common/send-json';
import type { Act } from '@/features/common/use-act';
import type { PeopleView } from '@/server/people/people';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { Field } from '@/ui/field';
import { peopleMessages as messages } from './messages';

const ANY = 'any';

/** Tokens of programs that bring files: made, shown once, taken back. */
export function Tokens({
  tokens,
  jobs,
  act,
}: {
  tokens: PeopleView['tokens'];
  jobs: readonly { id: string; name: string }[];
  act: Act;
}) {
  const [jobId, setJobId] = useState(ANY);
  const [made, setMade] = useState<string>();
  const nameOf = (id: string | null) => jobs.find((job) => job.id === id)?.name ?? messages.anyJob;
  const add = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const token = { name: new FormData(form).get('name'), jobId: jobId === ANY ? null : jobId };
    void act(
      () => sendJson<{ token: string }>('POST', '/api/tokens', token),
      (answer) => {
        setMade(answer.token);
        form.reset();
      },
    );
  };
  return (
    <section aria-label={messages.tokens} className="flex flex-col gap-2">
      <h2 className="font-bold">{messages.tokens}</h2>
      {tokens.length > 0 ? (
        <Card flush className="shrink-0">
          <ul>
            {tokens.map(({ id, name, jobId: ofJob, usedAtMs }) => (
              <li key={id} className="flex items-center gap-3 border-b border-hair px-4 py-1.5 text-sm last:border-0">
                <span className="min-w-0 grow truncate">
                  {messages.token(
                    name,
                    nameOf(ofJob),
                    usedAtMs === null ? messages.neverUsed : messages.usedOn(formatMoment(usedAtMs)),
                  )}
                </span>
                <Button
                  kind="quiet"
                  onClick={() => void act(() => sendJson('DELETE', `/api/tokens/${id}`))}
                  aria-label={messages.takeTokenBack(name)}
                >
                  {messages.takeBack}
                </Button>
              </li>
            ))}
          </ul>
        </Card>
      ) : null}
      <form onSubmit={add} className="flex items-end gap-3">
        <Field label={messages.tokenName} name="name" required maxLength={80} autoComplete="off" />
        <Choice
          label={messages.job}
          value={jobId}
          options={[
            { value: ANY, label: messages.anyJob },
            ...jobs.map(({ id, name }) => ({ value: id, label: name })),
          ]}
          onChange={setJobId}
        />
        <Button type="submit">{messages.addToken}</Button>
      </form>
      {made ? (
        <p className="text-sm">
          {messages.tokenIs} <code className="font-numbers break-all select-all">{made}</code>
        </p>
      ) : null}
    </section>
  );
}
