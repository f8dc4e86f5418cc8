'use client';

import { Button } from '@/ui/button';

export default function PageError({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <main className="grid h-full place-items-center">
      <div role="alert" className="max-w-lg text-center">
        <h1 className="text-xl font-bold">This page could not be shown</h1>
        <p className="mt-2 text-mute">
          Everything saved is safe. Try again; if it happens again, include this in your report:{' '}
          <code className="font-mono">{error.digest ?? error.message}</code>
        </p>
        <Button kind="primary" className="mt-4" onClick={reset}>
          Try again
        </Button>
      </div>
    </main>
  );
}
