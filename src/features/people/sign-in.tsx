'use client';

import { type FormEvent, useState } from 'react';
import { Brand } from '@/features/common/brand';
import { sendJson } from '@/features/common/send-json';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Field } from '@/ui/field';
import { signInMessages as messages } from './messages';

/** Where people sign in, on their way to a page. */
export function SignIn({ next }: { next: string }) {
  const [problem, setProblem] = useState<string>();
  const [isBusy, setIsBusy] = useState(false);
  const signIn = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    setIsBusy(true);
    const answer = await sendJson('POST', '/api/sign-in', {
      name: form.get('name'),
      passphrase: form.get('passphrase'),
    });
    if (answer.ok) window.location.assign(next);
    else {
      setProblem(`${answer.error.happened} ${answer.error.todo}`);
      setIsBusy(false);
    }
  };
  return (
    <div className="flex h-full flex-col">
      <header className="bg-bar px-4 py-2 text-bar-text">
        <Brand />
      </header>
      <main className="flex grow items-start justify-center p-6 pt-[12dvh]">
        <Card className="w-full max-w-sm">
          <h1 className="mb-3 text-xl font-bold">{messages.signIn}</h1>
          <form onSubmit={(event) => void signIn(event)} className="flex flex-col gap-3">
            <Field label={messages.name} name="name" required maxLength={80} autoComplete="username" autoFocus />
            <Field
              label={messages.passphrase}
              name="passphrase"
              type="password"
              required
              maxLength={200}
              autoComplete="current-password"
            />
            {problem ? (
              <p role="alert" className="text-sm text-breach">
                {problem}
              </p>
            ) : null}
            <Button kind="primary" type="submit" disabled={isBusy}>
              {messages.signIn}
            </Button>
          </form>
        </Card>
      </main>
    </div>
  );
}
