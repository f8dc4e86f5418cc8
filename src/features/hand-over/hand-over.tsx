'use client';

import { useRouter } from 'next/navigation';
import { useMemo, useState, useTransition } from 'react';
import type { ErrorRecord } from '@/core/errors/app-error';
import { SPECS, specById } from '@/core/spec/catalogue';
import { judge } from '@/core/spec/verdict';
import { solveGain } from '@/core/treatment/solver';
import type { Levels } from '@/core/treatment/treatment';
import { formatGain, formatLevel, formatTime } from '@/core/units/format';
import { AnswerList } from '@/features/common/answer-list';
import { ErrorNotice } from '@/features/common/error-notice';
import { MiniRule } from '@/features/common/mini-rule';
import { useSaveStatus } from '@/features/common/save-status';
import { StatePill } from '@/features/common/state-mark';
import { saveSteps } from '@/features/common/treatment-actions';
import { useAnswers } from '@/features/common/use-limiter';
import { useTreated } from '@/features/common/use-treated';
import { verdictPhrases } from '@/features/common/verdict-words';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { writeDelivery } from './actions';
import { DeliveryTable } from './delivery-table';

const WRITTEN_BIT_DEPTH = 24;

/** The stage: one programme, what a delivery of it would be, and what has been written. */
export function HandOver({
  jobId,
  programmes,
  current,
  specId,
}: {
  jobId: string;
  programmes: readonly ProgrammeView[];
  current: ProgrammeView;
  specId: string;
}) {
  const router = useRouter();
  const href = (programmeId: string, spec: string) => `/jobs/${jobId}/hand-over?programme=${programmeId}&spec=${spec}`;
  return (
    <div className="mx-auto flex max-w-[1600px] flex-col gap-3 p-4">
      <div className="flex items-start justify-between gap-4">
        <div className="min-w-0">
          <h1 className="truncate text-xl font-bold">{current.title}</h1>
          <p className="truncate text-xs text-mute">
            {current.version === 0 ? 'no treatment set' : `treatment v${current.version}`} ·{' '}
            {formatTime(current.format.durationSeconds, { milliseconds: true })} · made from {current.fileName}
          </p>
        </div>
        <Choice
          label="Programme"
          value={current.id}
          options={programmes.map(({ id, title }) => ({ value: id, label: title }))}
          onChange={(id) => router.push(href(id, specId))}
        />
      </div>
      {current.measured ? (
        <NewDelivery
          programme={current}
          measured={current.measured}
          specId={specId}
          onSpecChange={(spec) => router.replace(href(current.id, spec), { scroll: false })}
        />
      ) : (
        <Card>
          <p className="text-sm text-mute">
            ◌ This programme has not been measured yet; deliveries can be written once it is.
          </p>
        </Card>
      )}
      <DeliveryTable deliveries={current.deliveries} />
    </div>
  );
}

function NewDelivery({
  programme,
  measured,
  specId,
  onSpecChange,
}: {
  programme: ProgrammeView;
  measured: NonNullable<ProgrammeView['measured']>;
  specId: string;
  onSpecChange: (specId: string) => void;
}) {
  const router = useRouter();
  const { track } = useSaveStatus();
  const [isWriting, startWriting] = useTransition();
  const [error, setError] = useState<ErrorRecord>();
  const spec = specById(specId);
  const { treatment } = programme;
  const { gainDb, limit } = treatment;
  const { source, preparation, prepared, before, after: predicted } = useTreated(programme, measured, treatment);
  const power = prepared?.weightedPower;
  const solution = useMemo(() => (power ? solveGain(before, power, spec) : null), [before, power, spec]);
  const isStopped = solution?.binding === 'ceiling' && spec.loudness !== undefined && solution.shortfallLu >= 0.005;
  const answers = useAnswers(source, preparation, specId, isStopped);
  const verdict = judge(predicted, { ...programme.format, bitDepth: WRITTEN_BIT_DEPTH }, spec);
  const write = () =>
    startWriting(async () => {
      const result = await track(writeDelivery(programme.id, specId));
      setError(result.ok ? undefined : result.error);
      router.refresh();
    });
  const choose = (levels: Levels) =>
    startWriting(async () => {
      const result = await track(saveSteps(programme.id, levels));
      setError(result.ok ? undefined : result.error);
      router.refresh();
    });
  return (
    <Card className="flex flex-col gap-3">
      <div className="grid items-center gap-5 lg:grid-cols-[minmax(12rem,auto)_minmax(12rem,18rem)_1fr_auto]">
        <div>
          <p className="mb-1 text-xs text-mute">New delivery for</p>
          <Choice
            label="Spec"
            value={specId}
            options={SPECS.map(({ id, name }) => ({ value: id, label: name }))}
            onChange={onSpecChange}
          />
        </div>
        <MiniRule readings={predicted} spec={spec} labelled />
        <div>
          <p className="mb-1 text-xs text-mute">
            predicted with {formatGain(gainDb, 2)}
            {limit ? ` and a limiter at ${formatLevel(limit.ceilingDbtp, 'dBTP')}` : ''}, before anything is written
          </p>
          <ul aria-label="Predicted" className="flex flex-wrap gap-2">
            {verdictPhrases(verdict, predicted, spec).map(({ state, text }) => (
              <li key={text}>
                <StatePill state={state}>{text}</StatePill>
              </li>
            ))}
          </ul>
        </div>
        <Button kind={verdict.inside ? 'primary' : 'plain'} disabled={isWriting} onClick={write}>
          {verdict.inside ? 'Write the delivery' : 'Write it although it misses'}
        </Button>
      </div>
      {isStopped ? (
        <div className="max-w-xl">
          <p className="mb-1 text-xs text-mute">
            Gain alone stops at the ceiling of {spec.name}. Choosing a way on sets it for this programme:
          </p>
          <AnswerList answers={answers} spec={spec} levels={{ gainDb, limit }} onChoose={choose} />
        </div>
      ) : null}
      <ErrorNotice error={error} onClose={() => setError(undefined)} />
      {verdict.notJudged.length > 0 ? (
        <p className="text-xs text-mute">◌ not judged from the samples: {verdict.notJudged.join('; ')}</p>
      ) : null}
    </Card>
  );
}
