'use client';

import { zodResolver } from '@hookform/resolvers/zod';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { ResolvedFormat } from '@/core/delivery/format';
import { FILE_FORMATS, isLossy } from '@/core/file-formats/file-formats';
import { isMovedByGain } from '@/core/spec/assess';
import { verdictPhrases } from '@/core/spec/assessment';
import { peakUnit, specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatNumber } from '@/core/units/format';
import type { Act } from '@/features/common/use-act';
import type { DeliveryView } from '@/server/jobs/delivery-view';
import { Button } from '@/ui/button';
import { Field } from '@/ui/field';
import { discardMiss, solveMiss } from './actions';
import { acceptanceSchema } from './inputs';
import { decideMessages as messages } from './messages';
import { acceptMiss } from './requests';

/** A written file that misses its spec is never handed over in silence: somebody decides, and says why. */
export function Decide({
  delivery,
  spec,
  format,
  act,
}: {
  delivery: DeliveryView;
  spec: Spec;
  format: ResolvedFormat;
  act: Act;
}) {
  const [isAccepting, setIsAccepting] = useState(false);
  const { written } = delivery;
  if (!written) return null;
  return (
    <section
      aria-label={messages.missesItsSpec(delivery.fileName)}
      className="flex flex-wrap items-center gap-3 rounded-control bg-breach-1/70 px-3 py-2"
    >
      <p className="min-w-64 grow basis-96 text-sm">
        <strong className="block">{messages.thisFileMissesItsSpec}</strong>
        {missText(delivery, spec, format)}
      </p>
      {isAccepting ? (
        <AcceptForm
          onBack={() => setIsAccepting(false)}
          onAccept={(reason) => act(() => acceptMiss(delivery.id, reason))}
        />
      ) : (
        <span className="flex gap-2">
          {isMovedByGain(written.verdict) ? (
            <Button kind="primary" onClick={() => act(() => solveMiss(delivery.id))}>
              {messages.recalculateAndRewrite}
            </Button>
          ) : null}
          <Button onClick={() => setIsAccepting(true)}>{messages.acceptWithAReason}</Button>
          <Button onClick={() => act(() => discardMiss(delivery.id))}>{messages.discardTheFile}</Button>
        </span>
      )}
    </section>
  );
}

function AcceptForm({ onBack, onAccept }: { onBack: () => void; onAccept: (reason: string) => void }) {
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(acceptanceSchema),
    defaultValues: { reason: '' },
  });
  return (
    <form className="flex grow items-end gap-2" noValidate onSubmit={handleSubmit(({ reason }) => onAccept(reason))}>
      <Field label={messages.reasonForAcceptingIt} {...register('reason')} problem={formState.errors.reason?.message} />
      <Button type="submit">{messages.accept}</Button>
      <Button kind="quiet" onClick={onBack}>
        {messages.back}
      </Button>
    </form>
  );
}

function missText({ written }: DeliveryView, spec: Spec, { kind }: ResolvedFormat): string {
  if (!written) return '';
  const { readings, verdict } = written;
  const peak = specPeak(readings, spec);
  const { ceiling, allowanceDb } = spec.peak;
  if (isLossy(kind) && peak !== null && peak > ceiling + allowanceDb) {
    const unit = peakUnit(spec);
    return [
      messages.peakAfterCoding(FILE_FORMATS[kind].name, formatLevel(peak, unit), formatLevel(ceiling, unit)),
      messages.whatRecalculatingDoes(formatNumber(peak - ceiling + 0.1)),
    ].join(' ');
  }
  const missed = verdictPhrases(verdict).filter(({ state }) => state !== 'inside');
  return `${missed.map(({ text }) => text).join('; ')}.`;
}
