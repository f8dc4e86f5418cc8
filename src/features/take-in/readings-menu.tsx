'use client';

import { useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { fetchAnswer, recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { Button } from '@/ui/button';
import { Popup } from '@/ui/popup';
import { takeInTableMessages as messages } from './messages';

/** All readings of a job, for a spreadsheet: as a file, or by the clipboard. */
export function ReadingsMenu({ jobId }: { jobId: string }) {
  const address = `/api/jobs/${jobId}/readings`;
  const [isCopied, setIsCopied] = useState(false);
  const [error, setError] = useState<ErrorRecord>();
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(await (await fetchAnswer(address)).text());
      setError(undefined);
      setIsCopied(true);
    } catch (cause) {
      setError(recordOf(cause));
    }
  };
  return (
    <Popup name={messages.readings}>
      <div className="flex items-center gap-3">
        <a
          href={address}
          download
          className="rounded-control border border-hair bg-sheet px-3 py-1.5 text-sm font-semibold hover:border-stock-3"
        >
          {messages.download}
        </a>
        <Button title={messages.copyHint} onClick={() => void copy()}>
          {messages.copy}
        </Button>
        <span role="status" className="text-xs text-mute">
          {isCopied ? messages.copied : ''}
        </span>
      </div>
      <ErrorNotice error={error} />
    </Popup>
  );
}
