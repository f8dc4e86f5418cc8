'use client';

import { useEffect, useState } from 'react';
import { isTourOffered, withdrawTour } from '@/features/common/tour-offer';
import { Button } from '@/ui/button';
import { tourMessages as messages } from './messages';

/** A line above the desk for who sees it for the first time. */
export function TourOffer({ onTake }: { onTake: () => void }) {
  const [isOffered, setOffered] = useState(false);
  useEffect(() => setOffered(isTourOffered()), []);
  if (!isOffered) return null;
  const close = () => {
    withdrawTour();
    setOffered(false);
  };
  return (
    <p className="flex items-center gap-3 rounded-card border border-slide-2 bg-slide-1 px-4 py-1 text-sm">
      {messages.offer}
      <Button
        kind="quiet"
        onClick={() => {
          close();
          onTake();
        }}
      >
        {messages.take}
      </Button>
      <Button kind="quiet" onClick={close}>
        {messages.notNow}
      </Button>
    </p>
  );
}
