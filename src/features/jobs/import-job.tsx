'use client';

import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { Button } from '@/ui/button';
import { Notice } from '@/ui/notice';
import { importJobMessages as messages } from './messages';

/** Brings in a job that was exported, from its ZIP, and opens it. */
export function ImportJob() {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const [state, setState] = useState<{ busy?: string; failure?: string }>({});
  const bring = async (file: File) => {
    setState({ busy: file.name });
    try {
      const response = await fetch(`/api/jobs/import?name=${encodeURIComponent(file.name)}`, {
        method: 'PUT',
        body: file,
      });
      const answer = (await response.json()) as { jobId: string } | { error: ErrorRecord };
      if ('jobId' in answer) {
        router.push(`/jobs/${answer.jobId}/take-in`);
        return;
      }
      const { happened, safe, todo } = answer.error;
      setState({ failure: `${happened} ${safe} ${todo}` });
    } catch {
      setState({
        failure: messages.didNotArrive(file.name),
      });
    }
  };
  return (
    <div className="flex items-center gap-3">
      {state.failure ? <Notice onClose={() => setState({})}>{state.failure}</Notice> : null}
      <p role="status" className="text-xs text-mute">
        {state.busy ? messages.importing(state.busy) : ''}
      </p>
      <Button disabled={state.busy !== undefined} onClick={() => input.current?.click()}>
        {messages.importAJob}
      </Button>
      <input
        ref={input}
        type="file"
        accept=".zip"
        hidden
        aria-label={messages.zipOfAJob}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) void bring(file);
        }}
      />
    </div>
  );
}
