'use client';

import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from 'react';
import { useLeaveWarning } from './use-leave-warning';

interface SaveStatus {
  pending: number;
  failed: boolean;
  /** Shows that something is being saved until the promise settles. */
  track: <T>(saving: Promise<T>) => Promise<T>;
}

const SaveStatusContext = createContext<SaveStatus | undefined>(undefined);

export function SaveStatusProvider({ children }: { children: ReactNode }) {
  const [pending, setPending] = useState(0);
  const [failed, setFailed] = useState(false);
  const track = useCallback(async <T,>(saving: Promise<T>): Promise<T> => {
    setPending((n) => n + 1);
    try {
      const result = await saving;
      setFailed(false);
      return result;
    } catch (error) {
      setFailed(true);
      throw error;
    } finally {
      setPending((n) => n - 1);
    }
  }, []);
  useLeaveWarning(pending > 0);
  const value = useMemo(() => ({ pending, failed, track }), [pending, failed, track]);
  return <SaveStatusContext value={value}>{children}</SaveStatusContext>;
}

export function useSaveStatus(): SaveStatus {
  const status = useContext(SaveStatusContext);
  if (!status) throw new Error('useSaveStatus needs a SaveStatusProvider');
  return status;
}
