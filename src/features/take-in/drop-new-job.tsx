'use client';

import { useCallback } from 'react';
import { DropTarget } from './drop-target';
import { dropNewJobMessages as messages } from './messages';
import { keepForNextJob } from './pending-files';

/** Starts a job with what is dropped on the first screen, named after the first of it. */
export function DropNewJob({ startJob }: { startJob: (form: FormData) => Promise<void> }) {
  const start = useCallback(
    (files: File[]) => {
      const [first] = files;
      if (!first) return;
      keepForNextJob(files);
      const form = new FormData();
      form.set('name', first.name.replace(/\.[^.]+$/, ''));
      void startJob(form);
    },
    [startJob],
  );
  return <DropTarget text={messages.dropHere} onFiles={start} />;
}
