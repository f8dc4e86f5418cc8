'use client';

import { useRouter } from 'next/navigation';
import { useEffect } from 'react';
import type { NumberedEvent } from '@/server/tasks/event-log';

/** Has a page of what all jobs share, specs or receivers, made anew once another window has changed some of it, or a file was sent. */
export function useSharedChanges(): void {
  const router = useRouter();
  useEffect(() => {
    const source = new EventSource('/api/events');
    source.addEventListener('missed', () => router.refresh());
    source.onmessage = ({ data }) => {
      const event = JSON.parse(data) as NumberedEvent;
      const isOfTransfer = event.kind === 'send' && event.touched.length > 0;
      if (isOfTransfer || event.touched.some((own) => 'isShared' in own)) router.refresh();
    };
    return () => source.close();
  }, [router]);
}
