'use client';

import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react';
import { useChanged } from '@/features/common/data/use-changed';
import { useLeaveWarning } from '@/features/common/use-leave-warning';
import { uploadsMessages as messages } from './messages';
import { takePending } from './pending-files';
import {
  forgetUnfinished,
  send,
  type Transfer,
  type TransferOutcome,
  type Unfinished,
  unfinishedUploads,
} from './transfer';

export interface Upload {
  id: number;
  fileName: string;
  sizeBytes: number;
  sentBytes: number;
  /** When sending began, and what had arrived before. */
  startedMs: number;
  firstSentBytes: number | null;
  state: 'waits' | 'sending' | 'failed' | 'known';
  /** Why it failed, or what it is known as. */
  message: string;
}

interface Uploads {
  uploads: readonly Upload[];
  /** Files that were interrupted before this page was opened. */
  unfinished: readonly Unfinished[];
  add: (files: Iterable<File>) => void;
  retry: (id: number) => void;
  cancel: (id: number) => void;
  dismiss: (id: number) => void;
  forget: (key: string) => void;
}

const UploadsContext = createContext<Uploads | undefined>(undefined);

/** Files on their way to the server: two at a time, and on through every stage of the job. */
const AT_ONCE = 2;

export function UploadsProvider({ jobId, children }: { jobId: string; children: ReactNode }) {
  const changed = useChanged();
  const [uploads, setUploads] = useState<readonly Upload[]>([]);
  const [unfinished, setUnfinished] = useState<readonly Unfinished[]>([]);
  const files = useRef(new Map<number, File>());
  const waiting = useRef<number[]>([]);
  const transfer = useRef(new Map<number, Transfer>());
  const lastId = useRef(0);

  const change = useCallback((id: number, values: Partial<Upload>) => {
    setUploads((list) => list.map((upload) => (upload.id === id ? { ...upload, ...values } : upload)));
  }, []);
  const dismiss = useCallback((id: number) => {
    files.current.delete(id);
    setUploads((list) => list.filter((upload) => upload.id !== id));
  }, []);

  const pump = useCallback(() => {
    const end = (id: number, outcome: TransferOutcome) => {
      if (!transfer.current.delete(id)) return;
      const remark = remarkOn(outcome, files.current.get(id)?.name ?? '');
      if (remark) change(id, remark);
      else dismiss(id);
      void changed();
      pump();
    };
    while (transfer.current.size < AT_ONCE) {
      const id = waiting.current.shift();
      if (id === undefined) return;
      const file = files.current.get(id);
      if (!file) continue;
      change(id, { state: 'sending', startedMs: performance.now(), sentBytes: 0, firstSentBytes: null });
      const sent = (sentBytes: number) =>
        setUploads((list) =>
          list.map((upload) =>
            upload.id === id ? { ...upload, sentBytes, firstSentBytes: upload.firstSentBytes ?? sentBytes } : upload,
          ),
        );
      transfer.current.set(
        id,
        send(jobId, file, sent, (outcome) => end(id, outcome)),
      );
    }
  }, [jobId, changed, change, dismiss]);

  const add = useCallback(
    (added: Iterable<File>) => {
      const entries = [...added].map((file) => ({ id: ++lastId.current, file }));
      for (const { id, file } of entries) {
        files.current.set(id, file);
        waiting.current.push(id);
      }
      const names = new Set(entries.map(({ file }) => file.name));
      setUnfinished((list) => list.filter(({ fileName }) => !names.has(fileName)));
      setUploads((list) => [
        ...list,
        ...entries.map(({ id, file }) => ({
          id,
          fileName: file.name,
          sizeBytes: file.size,
          sentBytes: 0,
          startedMs: 0,
          firstSentBytes: null,
          state: 'waits' as const,
          message: '',
        })),
      ]);
      pump();
    },
    [pump],
  );

  const retry = useCallback(
    (id: number) => {
      change(id, { state: 'waits', message: '' });
      waiting.current.push(id);
      pump();
    },
    [change, pump],
  );

  const cancel = useCallback(
    (id: number) => {
      waiting.current = waiting.current.filter((waits) => waits !== id);
      transfer.current.get(id)?.abort();
      dismiss(id);
    },
    [dismiss],
  );

  const forget = useCallback((key: string) => {
    setUnfinished((list) => list.filter((upload) => upload.key !== key));
    void forgetUnfinished(key);
  }, []);

  useEffect(() => {
    const pending = takePending();
    void unfinishedUploads(jobId).then((list) => {
      setUnfinished(list);
      // What was dropped on the first screen has waited for this page.
      if (pending.length > 0) add(pending);
    });
  }, [jobId, add]);
  useLeaveWarning(uploads.some(({ state }) => state === 'waits' || state === 'sending'));
  const value = useMemo(
    () => ({ uploads, unfinished, add, retry, cancel, dismiss, forget }),
    [uploads, unfinished, add, retry, cancel, dismiss, forget],
  );
  return <UploadsContext value={value}>{children}</UploadsContext>;
}

export function useUploads(): Uploads {
  const uploads = useContext(UploadsContext);
  if (!uploads) throw new Error('useUploads needs an UploadsProvider');
  return uploads;
}

/** What is left to say once a transfer has ended; undefined where the programme itself says it, or where it was cancelled. */
function remarkOn(outcome: TransferOutcome, fileName: string): Partial<Upload> | undefined {
  if ('failure' in outcome) return outcome.failure ? { state: 'failed', message: outcome.failure } : undefined;
  const { title, alreadyThere } = outcome.taken;
  if (!alreadyThere) return undefined;
  return { state: 'known', message: messages.alreadyInThisJob(fileName, title) };
}
