'use client';

import { useState } from 'react';
import type { ResolvedFormat } from '@/core/delivery/format';
import { FILE_FORMATS, isLossy } from '@/core/file-formats/file-formats';
import { peakUnit, specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatNumber } from '@/core/units/format';
import type { Act } from '@/features/common/use-act';
import { verdictPhrases } from '@/features/common/verdict-words';
import type { DeliveryView } from '@/server/jobs/jobs';
import { Button } from '@/ui/button';
import { Field } from '@/ui/field';
import { acceptMiss, discardMiss, solveMiss } from './actions';

/** What another gain or ceiling would change. */
const MOVABLE = ['Integrated', 'RMS', 'Short-term max', 'Momentary max', 'True peak', 'Sample peak'];

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
  const [reason, setReason] = useState('');
  const { written } = delivery;
  if (!written) return null;
  const isMovable = written.verdict.items.some(({ inside, name }) => !inside && MOVABLE.includes(name));
  return (
    <section
      aria-label={`${delivery.fileName} misses its spec`}
      className="flex flex-wrap items-center gap-3 rounded-control bg-breach-1/70 px-3 py-2"
    >
      <p className="min-w-64 grow basis-96 text-sm">
        <strong className="block">This file misses its spec</strong>
        {missText(delivery, spec, format)}
      </p>
      {isAccepting ? (
        <form
          className="flex grow items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            act(() => acceptMiss(delivery.id, reason));
          }}
        >
          <Field
            label="Reason for accepting it"
            value={reason}
            required
            minLength={3}
            maxLength={2000}
            onChange={(event) => setReason(event.target.value)}
          />
          <Button type="submit">Accept</Button>
          <Button kind="quiet" onClick={() => setIsAccepting(false)}>
            Back
          </Button>
        </form>
      ) : (
        <span className="flex gap-2">
          {isMovable ? (
            <Button kind="primary" onClick={() => act(() => solveMiss(delivery.id))}>
              Recalculate and rewrite
            </Button>
          ) : null}
          <Button onClick={() => setIsAccepting(true)}>Accept with a reason …</Button>
          <Button onClick={() => act(() => discardMiss(delivery.id))}>Discard the file</Button>
        </span>
      )}
    </section>
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
      `After ${FILE_FORMATS[kind].name} coding the decoded peak is ${formatLevel(peak, unit)}; the spec asks for`,
      `${formatLevel(ceiling, unit)} or less. Recalculating aims ${formatNumber(peak - ceiling + 0.1)} dB lower.`,
    ].join(' ');
  }
  const missed = verdictPhrases(verdict).filter(({ state }) => state !== 'inside');
  return `${missed.map(({ text }) => text).join('; ')}.`;
}
