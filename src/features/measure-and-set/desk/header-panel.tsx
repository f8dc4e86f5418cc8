'use client';

import { Cable } from 'lucide-react';
import dynamic from 'next/dynamic';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { stageAddress } from '@/features/common/address';
import { Button } from '@/ui/button';
import { deliverNow } from '../actions';
import { DeskHeader } from '../desk-header';
import { KeysDialog } from '../keys-dialog';
import { outboardMessages } from '../outboard/messages';
import { type Remedy, remedyOf } from '../remedies';
import { Tour } from '../tour/tour';
import { TourOffer } from '../tour/tour-offer';
import { useDesk, useDeskCommands, useRunCommand } from './desk-context';
import { headerPanelMessages as messages, reviewCopyMessages } from './messages';
import { ReviewCopy, useReviewCopy } from './review-copy';

const Outboard = dynamic(() => import('../outboard/outboard').then((module) => module.Outboard), { ssr: false });
const Charts = dynamic(() => import('../charts/charts').then((module) => module.Charts), { ssr: false });

/** What the programme is and how it stands; charts of it, and the keys. */
export function HeaderPanel() {
  const { jobId, programme, measured, verdict, treated, treatment, spec, others, options, timeline, keyMap } =
    useDesk();
  const { setGain, setOpenStep, setPlaceList, acting, treating } = useDesk();
  const router = useRouter();
  const run = useRunCommand();
  const [isListingKeys, setListingKeys] = useState(false);
  const [isCharting, setCharting] = useState(false);
  const [isTouring, setTouring] = useState(false);
  const [isSending, setSending] = useState(false);
  useDeskCommands({ charts: () => setCharting(true), keys: () => setListingKeys(true) });
  const review = useReviewCopy();
  const { limit, gainDb } = treatment;
  const { keys, setKey, reset } = keyMap;
  const deliver = async () => {
    // What could not be saved is said by itself; nothing else is written in its place.
    if (!(await treating.settle())) return;
    const handOver = stageAddress(jobId, 'hand-over', { programme: programme.id, spec: spec.id });
    await acting.act(
      () => deliverNow(programme.id, spec.id),
      () => router.push(handOver),
    );
  };
  const onRemedy = (remedy: Remedy) => {
    if ('gainDb' in remedy) setGain(remedy.gainDb);
    else if ('step' in remedy) setOpenStep(remedy.step);
    else if ('goTo' in remedy) run(remedy.goTo);
    else setPlaceList('options');
  };
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
        remedyFor={(key) => remedyOf(key, { ...options, gainDb, hasLimiter: limit !== null })}
        onRemedy={onRemedy}
      >
        <Button
          kind="primary"
          onClick={() => void deliver()}
          disabled={acting.isBusy}
          title={messages.deliverHint(spec.name)}
          className="py-1"
        >
          {messages.deliver}
        </Button>
        <Button
          onClick={review.write}
          disabled={review.isBusy}
          aria-keyshortcuts={keys.review}
          title={reviewCopyMessages.hint(spec.name, limit !== null)}
          className="py-1"
        >
          {reviewCopyMessages.write}
        </Button>
        <button
          type="button"
          aria-label={outboardMessages.open}
          title={outboardMessages.openHint}
          onClick={() => setSending(true)}
          className="cursor-pointer rounded-control border border-hair bg-sheet p-1.5 hover:border-stock-3"
        >
          <Cable size={16} aria-hidden />
        </button>
        <KeysDialog
          keys={keys}
          onKey={setKey}
          onReset={reset}
          onTour={() => {
            setListingKeys(false);
            setTouring(true);
          }}
          isOpen={isListingKeys}
          onOpenChange={setListingKeys}
        />
      </DeskHeader>
      <TourOffer onTake={() => setTouring(true)} />
      {isTouring ? <Tour onLeave={() => setTouring(false)} /> : null}
      <ReviewCopy review={review} />
      {isSending ? <Outboard onClose={() => setSending(false)} /> : null}
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
