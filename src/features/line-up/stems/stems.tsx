'use client';

import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import type { Member } from '@/core/lineup/line-up';
import { formatLevel, formatTime } from '@/core/units/format';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { StateMark, StatePill } from '@/features/common/state-mark';
import { TaskState } from '@/features/common/task-state';
import type { Act } from '@/features/common/use-act';
import type { LineUpView } from '@/server/line-ups/line-ups';
import type { StemsView } from '@/server/stems/null-test';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { testStems } from '../actions';
import { LineUpHeader } from '../line-up-header';
import { kindMessages, lineUpMessages, stemsMessages as messages } from '../messages';
import { stemsQuery } from '../queries';
import { WrittenRecords } from '../written-records';
import { Faults } from './faults';
import { Lanes } from './lanes';
import { ResidualGrid } from './residual-grid';
import { WriteStems } from './write-stems';

/** The stems of a mix: whether they add up to it, what is left where they do not, and their writing with the mix's own treatment. */
export function Stems({
  jobId,
  lineUp,
  specId,
  isBusy,
  act,
  change,
  onEdit,
  onRemove,
}: {
  jobId: string;
  lineUp: LineUpView;
  specId: string;
  isBusy: boolean;
  act: Act;
  change: (
    lineUp: LineUpView,
    wanted: { specId?: string | null; members?: Member[]; mixId?: string | null },
  ) => Promise<void>;
  onEdit: () => void;
  onRemove: () => void;
}) {
  const { data: view, error } = useQuery(stemsQuery(jobId, lineUp.id));
  useTested(view, () => void act(() => testStems(lineUp.id)));
  const isUnderWay = view?.task?.state === 'queued' || view?.task?.state === 'running';
  return (
    <>
      <LineUpHeader
        lineUp={lineUp}
        about={view ? aboutStems(view) : lineUpMessages.about(kindMessages.stems, lineUp.members.length)}
        specId={specId}
        change={change}
        onEdit={onEdit}
        onRemove={onRemove}
      >
        {view ? <StemsState view={view} /> : null}
      </LineUpHeader>
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      {view && view.waiting.length > 0 ? (
        <p className="text-sm text-mute">{lineUpMessages.waiting(view.waiting.join(', '))}</p>
      ) : null}
      {view ? (
        <>
          <Card className="flex flex-col gap-3">
            <div className="flex flex-wrap items-center gap-3">
              <h2 className="text-sm font-bold">{view.mix ? messages.mix : messages.noMix}</h2>
              <Choice
                label={messages.mix}
                placeholder={messages.choose}
                value={view.mix?.programmeId ?? ''}
                options={[...(view.mix ? [view.mix] : []), ...view.stems].map(({ programmeId, title }) => ({
                  value: programmeId,
                  label: title,
                }))}
                onChange={(mixId) => void change(lineUp, { mixId })}
              />
              {view.mix ? null : <p className="text-sm text-mute">{messages.noMixHint}</p>}
              {isUnderWay || (view.task?.state === 'failed' && !view.test) ? (
                <span className="ml-auto min-w-64">
                  <TaskState task={view.task} verb="testing" />
                </span>
              ) : view.mix ? (
                <span className="ml-auto">
                  <Button disabled={isBusy} onClick={() => void act(() => testStems(lineUp.id))}>
                    {view.test ? messages.testAgain : messages.test}
                  </Button>
                </span>
              ) : null}
            </div>
            <Differences view={view} />
            {view.mix ? <Lanes name={lineUp.name} mix={view.mix} stems={view.stems} test={view.test} /> : null}
          </Card>
          {view.mix && view.test ? (
            <>
              <Card title={messages.left} remark={leftText(view.test)}>
                <ResidualGrid test={view.test} mix={view.mix} stems={view.stems} />
              </Card>
              <Faults lineUpId={lineUp.id} mix={view.mix} stems={view.stems} test={view.test} />
            </>
          ) : null}
          {view.mix && view.stems.length > 0 ? (
            <WriteStems
              jobId={jobId}
              lineUpId={lineUp.id}
              specId={specId}
              view={view}
              mix={view.mix}
              isBusy={isBusy}
              act={act}
            />
          ) : null}
          <WrittenRecords jobId={jobId} lineUpId={lineUp.id} isBusy={isBusy} act={act} />
        </>
      ) : null}
    </>
  );
}

/** Stems that can be tested are, as soon as they are looked at: once for each set of them. */
function useTested(view: StemsView | undefined, test: () => void): void {
  const asked = useRef('');
  useEffect(() => {
    if (!view?.mix || view.test || view.waiting.length > 0 || view.stems.length === 0) return;
    // One that is under way, or that has failed, is there to be seen.
    if (view.task && view.task.state !== 'done') return;
    if (view.stems.some(({ differences }) => differences.some(({ isBlocking }) => isBlocking))) return;
    const of = [view.mix, ...view.stems].map(({ programmeId }) => programmeId).join(' ');
    if (asked.current === of) return;
    asked.current = of;
    test();
  }, [view, test]);
}

function StemsState({ view: { mix, test } }: { view: StemsView }) {
  if (!mix || !test) return <StatePill state="not-measured">{messages.notTested}</StatePill>;
  const { nulls, places } = test.reading;
  if (nulls) return <StatePill state="inside">{messages.adds}</StatePill>;
  const [place] = places;
  const time = (frame: number) => formatTime(frame / mix.sampleRateHz, { milliseconds: true });
  return (
    <StatePill state="missed">
      {place && places.length === 1
        ? messages.leaves(time(place.startFrame), time(place.endFrame))
        : messages.leavesInPlaces(places.length)}
    </StatePill>
  );
}

/** How files differ from that of the mix. */
function Differences({ view: { stems } }: { view: StemsView }) {
  const different = stems.filter(({ differences }) => differences.length > 0);
  if (different.length === 0) return null;
  return (
    <ul className="text-sm">
      {different.map(({ programmeId, title, differences }) =>
        differences.map(({ kind, text, isBlocking }) => (
          <li key={`${programmeId} ${kind}`} className="flex gap-1">
            <StateMark state={isBlocking ? 'missed' : 'advice'} /> {title}: {text}
          </li>
        )),
      )}
    </ul>
  );
}

function aboutStems({ mix, stems, test }: StemsView): string {
  const length = mix ? formatTime(mix.frames / mix.sampleRateHz) : '';
  return messages.about(stems.length, length, test?.isTimed ?? null);
}

function leftText({ reading: { residualDb, greatestResidualDb } }: NonNullable<StemsView['test']>): string {
  return residualDb === null
    ? messages.residualNone
    : messages.residual(formatLevel(residualDb, 'dBFS'), formatLevel(greatestResidualDb, 'dBFS'));
}
