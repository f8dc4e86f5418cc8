'use client';

import { useQueryStates } from 'nuqs';
import { ADDRESS } from './address';
import { chooseJobSpec } from './job-actions';
import { useSaveStatus } from './save-status';
import { useSpecs } from './specs';
import { useAct } from './use-act';

/**
 * The spec that a job's pages judge by: the one in the address, or that of the job. What is chosen is kept with the job.
 *
 * @param firstSpecId that the page was made for
 */
export function useJobSpec(jobId: string, firstSpecId: string) {
  const [{ spec: asked }, setAddress] = useQueryStates(ADDRESS);
  const { track } = useSaveStatus();
  const { act, error, clearError } = useAct(() => undefined, track);
  const specs = useSpecs();
  const specId = specs.some(({ id }) => id === asked) ? (asked ?? firstSpecId) : firstSpecId;
  const choose = (spec: string, programme?: string) => {
    void setAddress({ spec, ...(programme === undefined ? {} : { programme }) });
    void act(() => chooseJobSpec(jobId, spec));
  };
  return { specId, choose, error, clearError };
}
