'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Balance, LineUpKind, Member, RecordSettings } from '@/core/lineup/line-up';
import { formatLevel, formatTime } from '@/core/units/format';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { StatePill } from '@/features/common/state-mark';
import type { Act } from '@/features/common/use-act';
import type { LineUpReadingView } from '@/server/line-ups/line-up-reading';
import type { LineUpView } from '@/server/line-ups/line-ups';
import { Card } from '@/ui/card';
import { balanceLineUp, setGains } from './actions';
import { DeliverAll } from './deliver-all';
import { LineUpHeader } from './line-up-header';
import { kindMessages, lineUpMessages as messages } from './messages';
import { lineUpReadingQuery } from './queries';
import { SetLevels } from './set-levels';
import { Terrace } from './terrace';
import { TrackTable } from './track-table';
import { TransitionCard } from './transition';
import { WriteBook } from './write-book';
import { WriteRecord } from './write-record';
import { WrittenRecords } from './written-records';

/** One line-up: its picture, its programmes in order, and how its levels are set. */
export function Whole({
  jobId,
  lineUp,
  specId,
  isBusy,
  act,
  remember,
  change,
  onEdit,
  onRemove,
}: {
  jobId: string;
  lineUp: LineUpView;
  specId: string;
  isBusy: boolean;
  act: Act;
  remember: (undo: () => void) => void;
  change: (
    lineUp: LineUpView,
    wanted: { specId?: string | null; members?: Member[]; record?: RecordSettings },
  ) => Promise<void>;
  onEdit: () => void;
  onRemove: () => void;
}) {
  const { data, error } = useQuery(lineUpReadingQuery(jobId, lineUp.id, specId));
  const reading = data && inOrder(data, lineUp);
  const [chosenId, setChosenId] = useState<string | null>(null);
  const [stoppedBy, setStoppedBy] = useState<readonly string[]>([]);
  const gapOf = new Map(lineUp.members.map(({ programmeId, gapSeconds }) => [programmeId, gapSeconds]));
  const balance = (how: Balance) =>
    act(
      () => balanceLineUp(lineUp.id, how, specId),
      ({ gains, stoppedBy: stopped }) => {
        setStoppedBy(stopped);
        const before = gains.map(({ programmeId, wasDb }) => ({ programmeId, gainDb: wasDb }));
        remember(() => {
          setStoppedBy([]);
          void act(() => setGains(before));
        });
      },
    );
  return (
    <>
      <LineUpHeader
        lineUp={lineUp}
        about={aboutWhole(lineUp, reading)}
        specId={specId}
        change={change}
        onEdit={onEdit}
        onRemove={onRemove}
      >
        {reading ? <Pills reading={reading} /> : null}
      </LineUpHeader>
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      {reading && reading.waiting.length > 0 ? (
        <p className="text-sm text-mute">{messages.waiting(reading.waiting.join(', '))}</p>
      ) : null}
      {reading?.whole ? (
        <>
          <Card>
            <Terrace reading={reading} chosenId={chosenId} onChoose={setChosenId} />
          </Card>
          {DELIVERED_EACH.includes(lineUp.kind) ? (
            <DeliverAll jobId={jobId} lineUp={lineUp} specId={specId} isBusy={isBusy} act={act} />
          ) : null}
          {lineUp.kind === 'book' ? (
            <WriteBook
              jobId={jobId}
              lineUp={lineUp}
              tracks={reading.tracks}
              specId={specId}
              isBusy={isBusy}
              act={act}
              onChange={(book) => void change(lineUp, { record: { ...lineUp.record, book } })}
            />
          ) : null}
          <Card flush className="overflow-x-auto">
            <SetLevels
              jobId={jobId}
              lineUpId={lineUp.id}
              specId={specId}
              settingsKey={settingsKeyOf(reading)}
              isBusy={isBusy}
              onBalance={(how) => void balance(how)}
            />
            {stoppedBy.length > 0 ? (
              <p role="status" className="border-b border-hair px-4 py-2 text-sm text-advice">
                {messages.stoppedBy(stoppedBy.join(', '))}
              </p>
            ) : null}
            <TrackTable
              reading={reading}
              jobId={jobId}
              chosenId={chosenId}
              onChoose={setChosenId}
              onMove={(ids) =>
                void change(lineUp, {
                  members: ids.map((programmeId) => ({ programmeId, gapSeconds: gapOf.get(programmeId) ?? 0 })),
                })
              }
              onGain={(programmeId, gainDb) => {
                const wasDb = reading.tracks.find((own) => own.programmeId === programmeId)?.gainDb ?? 0;
                void act(
                  () => setGains([{ programmeId, gainDb }]),
                  () => remember(() => void act(() => setGains([{ programmeId, gainDb: wasDb }]))),
                );
              }}
              onGap={(programmeId, gapSeconds) =>
                void change(lineUp, {
                  members: lineUp.members.map((own) =>
                    own.programmeId === programmeId ? { ...own, gapSeconds } : own,
                  ),
                })
              }
            />
          </Card>
          {PLAYED_IN_ORDER.includes(lineUp.kind) ? (
            <>
              <div className="grid items-start gap-3 xl:grid-cols-2">
                <TransitionCard
                  jobId={jobId}
                  lineUpId={lineUp.id}
                  tracks={reading.tracks}
                  chosenId={chosenId}
                  settingsKey={settingsKeyOf(reading)}
                />
                <WriteRecord
                  // What it is for says in what format it begins.
                  key={`${lineUp.kind} ${lineUp.record.isForCd}`}
                  jobId={jobId}
                  lineUp={lineUp}
                  specId={specId}
                  isBusy={isBusy}
                  act={act}
                />
              </div>
              <WrittenRecords jobId={jobId} lineUpId={lineUp.id} isBusy={isBusy} act={act} />
            </>
          ) : null}
        </>
      ) : null}
    </>
  );
}

/** What was read before, in the order that is set now. */
function inOrder(reading: LineUpReadingView, { members }: LineUpView): LineUpReadingView {
  const places = new Map(members.map(({ programmeId }, i) => [programmeId, i]));
  const place = ({ programmeId }: { programmeId: string }) => places.get(programmeId) ?? members.length;
  return { ...reading, tracks: [...reading.tracks].sort((a, b) => place(a) - place(b)) };
}

/** Kinds whose programmes are handed over each by itself. */
const DELIVERED_EACH: readonly LineUpKind[] = ['book', 'parts', 'versions', 'batch'];

/** Kinds whose programmes are heard one after the other. */
const PLAYED_IN_ORDER: readonly LineUpKind[] = ['record', 'book', 'parts'];

/** Changes with what a transition is rendered from, as far as it is seen here. */
function settingsKeyOf({ lineUp, tracks }: LineUpReadingView): string {
  return JSON.stringify([
    lineUp.record.limit,
    tracks.map(({ programmeId, gapSeconds, gainDb, reductionDb, durationSeconds }) => [
      programmeId,
      gapSeconds,
      gainDb,
      reductionDb,
      durationSeconds,
    ]),
  ]);
}

/** Where the whole lands, and its highest peak. */
function Pills({ reading: { whole } }: { reading: LineUpReadingView }) {
  if (!whole) return null;
  const { integratedLufs, truePeakDbtp, loudnessRangeLu, loudnessState, peakState } = whole;
  return (
    <>
      <StatePill state={loudnessState}>{messages.whole(formatLevel(integratedLufs, 'LUFS'))}</StatePill>
      <StatePill state={peakState}>{messages.peak(formatLevel(truePeakDbtp, 'dBTP'))}</StatePill>
      <span className="text-xs text-mute">{messages.range(formatLevel(loudnessRangeLu, 'LU'))}</span>
    </>
  );
}

function aboutWhole({ kind, members }: LineUpView, reading: LineUpReadingView | undefined): string {
  return reading?.whole
    ? messages.aboutWhole(kindMessages[kind], members.length, formatTime(reading.whole.durationSeconds))
    : messages.about(kindMessages[kind], members.length);
}
