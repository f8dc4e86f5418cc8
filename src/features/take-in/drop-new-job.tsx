'use client';

import { useCallback, useRef } from 'react';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { DropTarget } from './drop-target';
import { dropNewJobMessages as messages } from './messages';
import { keepForNextJob } from './pending-files';

/** Starts a job with what is dropped on the first screen, named after the first of it; before there is any, says so at its only place. */
export function DropNewJob({
  startJob,
  isFirst,
}: {
  startJob: (form: FormData) => Promise<void>;
  /** There is no job yet. */
  isFirst: boolean;
}) {
  const input = useRef<HTMLInputElement>(null);
  const start = useCallback(
    (files: readonly File[]) => {
      const [first] = files;
      if (!first) return;
      keepForNextJob(files);
      const form = new FormData();
      form.set('name', first.name.replace(/\.[^.]+$/, ''));
      void startJob(form);
    },
    [startJob],
  );
  return (
    <>
      <DropTarget text={messages.dropHere} onFiles={start} />
      {isFirst ? (
        <Card className="grid min-h-72 place-items-center border-dashed text-center">
          <div className="flex flex-col items-center gap-4">
            <p className="max-w-xl text-lg font-bold">{messages.first}</p>
            <Button kind="primary" onClick={() => input.current?.click()}>
              {messages.choose}
            </Button>
            <input
              ref={input}
              type="file"
              multiple
              hidden
              aria-label={messages.filesOfAJob}
              onChange={(event) => start([...(event.target.files ?? [])])}
            />
            <p className="max-w-md text-sm text-mute">{messages.several}</p>
          </div>
        </Card>
      ) : null}
    </>
  );
}
