'use client';

import { useRouter } from 'next/navigation';
import { createContext, type ReactNode, useCallback, useContext, useMemo, useRef, useState } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { useLeaveWarning } from '@/features/common/use-leave-warning';

export interface Upload {
  id: number;
  fileName: string;
  sizeBytes: number;
  sentBytes: number;
  startedMs: number;
  state: 'waits' | 'sending' | 'failed' | 'known';
  /** Why it failed, or what it is known as. */
  message: string;
}

interface Uploads {
  uploads: readonly Upload[];
  add: (files: Iterable<File>) => void;
  cancel: (id: number) => void;
  dismiss: (id: number) => void;
}

const UploadsContext = createContext<Uploads | undefined>(undefined);

/** Files on their way to the server: two at a time, and on through every stage of the job. */
const AT_ONCE = 2;

export function UploadsProvider({ jobId, children }: { jobId: string; children: ReactNode }) {
  const router = useRouter();
  const [uploads, setUploads] = useState<readonly Upload[]>([]);
  const waiting = useRef<{ id: number; file: File }[]>([]);
  const sending = useRef(new Map<number, XMLHttpRequest>());
  const lastId = useRef(0);

  const change = useCallback((id: number, values: Partial<Upload>) => {
    setUploads((list) => list.map((upload) => (upload.id === id ? { ...upload, ...values } : upload)));
  }, []);
  const dismiss = useCallback((id: number) => setUploads((list) => list.filter((upload) => upload.id !== id)), []);

  const pump = useCallback(() => {
    while (sending.current.size < AT_ONCE) {
      const next = waiting.current.shift();
      if (!next) return;
      const { id, file } = next;
      const request = new XMLHttpRequest();
      sending.current.set(id, request);
      change(id, { state: 'sending', startedMs: performance.now() });
      request.upload.onprogress = ({ loaded }) => change(id, { sentBytes: loaded });
      request.onloadend = () => {
        sending.current.delete(id);
        const outcome = outcomeOf(request, file.name);
        if (outcome) change(id, outcome);
        else dismiss(id);
        router.refresh();
        pump();
      };
      request.open('PUT', `/api/jobs/${jobId}/sources?name=${encodeURIComponent(file.name)}`);
      request.send(file);
    }
  }, [jobId, router, change, dismiss]);

  const add = useCallback(
    (files: Iterable<File>) => {
      const added = [...files].map((file) => ({ id: ++lastId.current, file }));
      waiting.current.push(...added);
      setUploads((list) => [
        ...list,
        ...added.map(({ id, file }) => ({
          id,
          fileName: file.name,
          sizeBytes: file.size,
          sentBytes: 0,
          startedMs: 0,
          state: 'waits' as const,
          message: '',
        })),
      ]);
      pump();
    },
    [pump],
  );

  const cancel = useCallback(
    (id: number) => {
      waiting.current = waiting.current.filter((entry) => entry.id !== id);
      sending.current.get(id)?.abort();
      dismiss(id);
    },
    [dismiss],
  );

  useLeaveWarning(uploads.some(({ state }) => state === 'waits' || state === 'sending'));
  const value = useMemo(() => ({ uploads, add, cancel, dismiss }), [uploads, add, cancel, dismiss]);
  return <UploadsContext value={value}>{children}</UploadsContext>;
}

export function useUploads(): Uploads {
  const uploads = useContext(UploadsContext);
  if (!uploads) throw new Error('useUploads needs an UploadsProvider');
  return uploads;
}

/** What is left to say once a request has ended; undefined where the programme itself says it. */
function outcomeOf(request: XMLHttpRequest, fileName: string): Partial<Upload> | undefined {
  if (request.status === 201) return undefined;
  if (request.status === 200) {
    const { title } = JSON.parse(request.responseText) as { title: string };
    return { state: 'known', message: `${fileName} is already here, as ${title}: the same bytes are kept once.` };
  }
  return { state: 'failed', message: failureOf(request, fileName) };
}

function failureOf(request: XMLHttpRequest, fileName: string): string {
  try {
    const { error } = JSON.parse(request.responseText) as { error: ErrorRecord };
    return [error.happened, error.safe, error.todo].filter(Boolean).join(' ');
  } catch {
    return `${fileName} did not arrive: the line to Opsimeter was lost. Everything saved before is whole. Check that it is still running, then drop the file again.`;
  }
}
