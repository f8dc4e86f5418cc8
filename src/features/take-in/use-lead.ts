'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useRef } from 'react';
import { stageAddress } from '@/features/common/address';
import { offerTour } from '@/features/common/tour-offer';
import type { TakenIn } from '@/server/jobs/take-in-list';
import { takeLead } from './pending-files';

/** Goes on to the desk once the one file that a job was started with is measured, unless somebody has gone elsewhere. */
export function useLead(jobId: string, taken: TakenIn | undefined): void {
  const router = useRouter();
  const leads = useRef(false);
  useEffect(() => {
    leads.current ||= takeLead();
    const [row] = taken?.rows ?? [];
    if (!leads.current || !row?.measured || taken?.all !== 1) return;
    leads.current = false;
    offerTour();
    router.push(stageAddress(jobId, 'measure-and-set', { programme: row.id }));
  }, [jobId, taken, router]);
}
