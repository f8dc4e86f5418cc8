'use client';

import { Button } from '@/ui/button';
import { errorMessages as messages } from './messages';

export default function PageError({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <main className="grid h-full place-items-center">
      <div role="alert" className="max-w-lg text-center">
        <h1 className="text-xl font-bold">{messages.thisPageCouldNotBeShown}</h1>
        <p className="mt-2 text-mute">
          {messages.allSaved} <code className="font-mono">{error.digest ?? error.message}</code>
        </p>
        <Button kind="primary" className="mt-4" onClick={reset}>
          {messages.tryAgain}
        </Button>
      </div>
    </main>
  );
}
