'use client';

import dynamic from 'next/dynamic';
import { useState } from 'react';
import { Button } from '@/ui/button';
import { DeskHeader } from '../desk-header';
import { KeysDialog } from '../keys-dialog';
import { useDesk, useDeskCommands } from './desk-context';
import { headerPanelMessages as messages, reviewCopyMessages } from './messages';
import { ReviewCopy, useReviewCopy } from './review-copy';

const Charts = dynamic(() => import('../charts/charts').then((module) => module.Charts), { ssr: false });

/** What the programme is and how it stands; charts of it, and the keys. */
export function HeaderPanel() {
  const { jobId, programme, measured, verdict, treated, treatment, spec, others, options, timeline, keyMap } =
    useDesk();
  const [isListingKeys, setListingKeys] = useState(false);
  const [isCharting, setCharting] = useState(false);
  useDeskCommands({ charts: () => setCharting(true), keys: () => setListingKeys(true) });
  const review = useReviewCopy();
  const { limit, gainDb } = treatment;
  const { keys, setKey, reset } = keyMap;
  return (
    <>
      <DeskHeader
        programme={programme}
        verdict={verdict}
        after={treated.after}
        spec={spec}
        solution={limit ? null : options.solution}
        gainDb={gainDb}
        reduction={limit && typeof treated.limited === 'object' ? treated.limited.limited.reduction : null}
        findings={measured.findings}
        isPreparing={treated.isPreparing}
        hasFailed={treated.hasFailed}
      >
        <Button
          onClick={review.write}
          disabled={review.isBusy}
          aria-keyshortcuts={keys.review}
          title={reviewCopyMessages.hint(spec.name, limit !== null)}
          className="py-1"
        >
          {reviewCopyMessages.write}
        </Button>
        <Button onClick={() => setCharting(true)} aria-keyshortcuts={keys.charts} className="py-1">
          {messages.charts}
        </Button>
        <KeysDialog keys={keys} onKey={setKey} onReset={reset} isOpen={isListingKeys} onOpenChange={setListingKeys} />
      </DeskHeader>
      <ReviewCopy review={review} />
      {isCharting ? (
        <Charts
          programme={programme}
          jobId={jobId}
          before={measured.readings}
          after={treated.after}
          trace={typeof treated.trace === 'object' ? treated.trace : null}
          power={treated.curve}
          timeline={timeline}
          specs={[spec, ...others]}
          onClose={() => setCharting(false)}
        />
      ) : null}
    </>
  );
}
