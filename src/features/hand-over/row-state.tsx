'use client';

import { useQueryClient } from '@tanstack/react-query';
import { isLossy } from '@/core/file-formats/file-formats';
import { verdictPhrases, verdictState } from '@/core/spec/assessment';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { limitName } from '@/core/treatment/limit-name';
import { formatNumber } from '@/core/units/format';
import { StateMark, StatePill } from '@/features/common/state-mark';
import { TaskState } from '@/features/common/task-state';
import { type Act, useAct } from '@/features/common/use-act';
import { usePerson } from '@/features/common/use-person';
import type { RowView } from '@/server/deliveries/sheet';
import type { DeliveryView } from '@/server/jobs/delivery-view';
import { Button } from '@/ui/button';
import { addEdges } from './actions';
import { rowStateMessages as messages } from './messages';
import { approveFile } from './requests';
import { standingOf } from './standing';

/** How far a row is: forecast, under way, written, missed, out of date. */
export function State({
  row,
  failure,
  edit,
}: {
  row: RowView;
  failure: { happened: string; todo: string } | undefined;
  /** Of what can be taken back. */
  edit: Act;
}) {
  const { delivery, prediction, problem } = row;
  const standing = standingOf(row);
  switch (standing) {
    case 'planned':
      if (problem) return <StatePill state="over">{messages.unsupported}</StatePill>;
      if (failure) {
        return (
          <span role="alert" className="text-sm text-breach">
            ▲ {failure.happened} {failure.todo}
          </span>
        );
      }
      if (!prediction) return <span className="text-sm text-mute">{messages.forecasting}</span>;
      return <Predicted row={row} edit={edit} />;
    case 'under-way':
    case 'ended':
      return <TaskState task={delivery?.task ?? null} verb="writing" />;
    case 'verified':
      return (
        <span className="flex flex-col items-start gap-1">
          <StatePill state="inside">{messages.verified}</StatePill>
          <ShortText row={row} />
          <Approval delivery={delivery as DeliveryView} />
        </span>
      );
    case 'stale':
      return (
        <span className="flex flex-col items-start gap-1">
          <StatePill state="advice">{messages.outOfDate}</StatePill>
          <span className="text-xs text-mute">
            {delivery?.written ? <StateMark state={verdictState(delivery.written.verdict)} /> : null}{' '}
            {messages.outOfDateHint}
          </span>
        </span>
      );
    case 'accepted':
      return (
        <span className="flex flex-col items-start gap-1">
          <StatePill state="advice">{messages.accepted}</StatePill>
          <span className="text-xs text-mute">
            “{delivery?.acceptedReason}”{delivery?.acceptedBy ? messages.by(delivery.acceptedBy) : ''}
          </span>
          <Approval delivery={delivery as DeliveryView} />
        </span>
      );
    case 'missed':
      return <Phrases delivery={delivery as DeliveryView} />;
  }
}

/** Who has approved a file, or how whoever has signed in does; nothing where nobody signs in. */
function Approval({ delivery: { id, fileName, approvedBy } }: { delivery: DeliveryView }) {
  const person = usePerson();
  const client = useQueryClient();
  const { act, error } = useAct(() => client.invalidateQueries());
  if (approvedBy !== null) return <span className="text-xs text-mute">{messages.approvedBy(approvedBy)}</span>;
  if (!person) return null;
  return (
    <>
      <Button kind="quiet" onClick={() => void act(() => approveFile(id))} aria-label={messages.approveFile(fileName)}>
        {messages.approve}
      </Button>
      {error ? (
        <span role="alert" className="text-xs text-breach">
          {error.happened}
        </span>
      ) : null}
    </>
  );
}

function Predicted({ row: { id, prediction, canAddEdges }, edit }: { row: RowView; edit: Act }) {
  if (!prediction) return null;
  const { verdict, stop } = prediction;
  if (verdict.inside) {
    return (
      <span className="flex flex-col items-start gap-1">
        <span className="rounded-full border border-hair px-3 py-1 text-sm font-semibold">
          {messages.forecast} <StateMark state="inside" />
        </span>
        {stop && stop.shortfallLu >= 0.05 ? (
          <span className="text-xs text-mute">
            {messages.stopsItShort(limitName(stop.binding), formatNumber(stop.shortfallLu))}
          </span>
        ) : null}
      </span>
    );
  }
  return (
    <span className="flex flex-col items-start gap-1">
      <ul aria-label={messages.forecastPill} className="flex flex-col gap-1">
        {verdictPhrases(verdict)
          .filter(({ state }) => state !== 'inside')
          .slice(0, 4)
          .map(({ state, text }) => (
            <li key={text} className="text-sm">
              <StateMark state={state} /> {text}
            </li>
          ))}
      </ul>
      {canAddEdges ? (
        <Button title={messages.addRoomToneHint} onClick={() => edit(() => addEdges([id]))}>
          {messages.addRoomTone}
        </Button>
      ) : null}
    </span>
  );
}

/** Coded, and softer than it was forecast: by how much, and what the coder did. */
function ShortText({ row: { delivery, levelMode, spec } }: { row: RowView }) {
  const { written, passes, format, predicted } = delivery ?? {};
  const loudness = written ? specLoudness(written.readings, spec) : null;
  const last = passes?.at(-1);
  const forecast = predicted ? specLoudness(predicted, spec) : null;
  if (levelMode.kind !== 'solved' || !format || loudness === null || forecast === null || last?.peak == null)
    return null;
  const shortLu = forecast - loudness;
  if (!isLossy(format.kind) || shortLu < 0.1) return null;
  const isAtCeiling = last.peak > spec.peak.ceiling - 0.1;
  return (
    <span className="text-xs text-mute">
      {messages.softerThanForecast(formatNumber(shortLu), isAtCeiling ? messages.reachTheCeiling : messages.peaksVary)}
    </span>
  );
}

function Phrases({ delivery: { written } }: { delivery: DeliveryView }) {
  if (!written) return null;
  return (
    <span className="flex flex-wrap gap-1">
      {verdictPhrases(written.verdict)
        .filter(({ state }) => state !== 'inside')
        .slice(0, 2)
        .map(({ state, text }) => (
          <StatePill key={text} state={state}>
            {text}
          </StatePill>
        ))}
    </span>
  );
}
