'use client';

import { type ChangeEvent, useRef, useState } from 'react';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useAct } from '@/features/common/use-act';
import type { ReadSpans } from '@/server/jobs/markers';
import { Button } from '@/ui/button';
import { markersFromList } from './actions';
import { listImportMessages as messages } from './messages';

/** More than any list has: a file that was chosen by mistake is not sent. */
const MOST_BYTES = 1_000_000;
/** Lines that are named; there may be as many as a wrong file has. */
const SHOWN = 3;

/** Makes markers of an edit list or a table that is chosen, and says what came of it. */
export function ListImport({ programmeId }: { programmeId: string }) {
  const chooser = useRef<HTMLInputElement>(null);
  const [read, setRead] = useState<ReadSpans>();
  const [isTooLarge, setIsTooLarge] = useState(false);
  const { act, isBusy, error } = useAct(useChanged());
  const take = async ({ target }: ChangeEvent<HTMLInputElement>) => {
    const [file] = target.files ?? [];
    if (!file) return;
    setRead(undefined);
    setIsTooLarge(file.size > MOST_BYTES);
    if (file.size <= MOST_BYTES) {
      const text = await file.text();
      void act(() => markersFromList(programmeId, text), setRead);
    }
    // The same file can be chosen again once it was mended.
    target.value = '';
  };
  return (
    <div className="py-1 font-sans">
      <input
        ref={chooser}
        type="file"
        accept=".edl,.csv,.txt,.tsv"
        aria-label={messages.list}
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => void take(event)}
      />
      <Button kind="inline" title={messages.hint} disabled={isBusy} onClick={() => chooser.current?.click()}>
        {messages.fromAList}
      </Button>
      {read ? (
        <p role="status" className="px-1 text-xs text-mute">
          {messages.came(read.added, read.known)}
          {read.unread.slice(0, SHOWN).map(({ line, why }) => (
            <span key={line} className="block">
              ○ {messages.leftOut(line, why)}
            </span>
          ))}
          {read.unread.length > SHOWN ? (
            <span className="block">{messages.more(read.unread.length - SHOWN)}</span>
          ) : null}
        </p>
      ) : null}
      {isTooLarge ? <p className="px-1 text-xs text-breach">{messages.tooLarge}</p> : null}
      <ErrorNotice error={error} />
    </div>
  );
}
