'use client';

import { useQuery, useSuspenseQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useCallback, useState } from 'react';
import { formatTime } from '@/core/units/format';
import { ALL_PROGRAMMES, lineUpAddress, stageAddress } from '@/features/common/address';
import { namesQuery, programmeQuery, sheetQuery } from '@/features/common/data/queries';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useSaveStatus } from '@/features/common/save-status';
import { useSpec } from '@/features/common/specs';
import { StatePill } from '@/features/common/state-mark';
import { cancelTasks } from '@/features/common/task-actions';
import { useAct } from '@/features/common/use-act';
import type { RowView } from '@/server/deliveries/sheet';
import type { RowFailure } from '@/server/deliveries/write-row';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import type { ReceiverView } from '@/server/receivers/receivers';
import { Button, ButtonLink } from '@/ui/button';
import { Card } from '@/ui/card';
import { Choice } from '@/ui/choice';
import { Notice } from '@/ui/notice';
import { addEdges, addRows, openFilm, writeRows } from './actions';
import { CopyOut } from './copy-out';
import { DeliveryDialog, usualDelivery } from './delivery-dialog';
import { EarlierFiles } from './earlier-files';
import { handOverMessages as messages } from './messages';
import { Misses } from './misses';
import { NameTemplate } from './name-template';
import { Sheet } from './sheet';
import { isUnderWay, standingOf } from './standing';
import { TagsDialog } from './tags-dialog';
import { TemplatesMenu } from './templates-menu';
import { useEdit } from './use-edit';
import { isPending, usePredictions } from './use-predictions';

/** The stage: rows of what is to be handed over, each predicted, written, and measured again. */
export function HandOver({
  jobId,
  programmeId,
  receivers,
  specId,
  hasFfmpeg,
}: {
  jobId: string;
  /** Null for all programmes of the job. */
  programmeId: string | null;
  receivers: readonly ReceiverView[];
  specId: string;
  hasFfmpeg: boolean;
}) {
  const router = useRouter();
  const { track } = useSaveStatus();
  const { act, isBusy, error, clearError } = useAct(useChanged(), track);
  const { data: names } = useSuspenseQuery(namesQuery(jobId));
  const { data: sheet } = useSuspenseQuery(sheetQuery(jobId, programmeId));
  const { data: current = null } = useQuery({
    ...programmeQuery(programmeId ?? ''),
    enabled: programmeId !== null,
  });
  const spec = useSpec(specId);
  const [refused, setRefused] = useState<RowFailure[]>([]);
  const [isAdding, setIsAdding] = useState(false);
  /** Rows that a person has ticked or not; the others are ticked where there is something to write. */
  const [ticked, setTicked] = useState<ReadonlyMap<string, boolean>>(new Map());
  const tick = useCallback(
    (some: readonly RowView[], isOn: boolean) =>
      setTicked((before) => new Map([...before, ...some.map(({ id }) => [id, isOn] as const)])),
    [],
  );
  const { rows, measured } = sheet;
  const target = { jobId, programmeId };
  const { edit, canUndo, undo } = useEdit(target, act);
  const failures = usePredictions(rows);
  const isTicked = (row: RowView) => ticked.get(row.id) ?? isWanted(row);
  const chosen = rows.filter((row) => isTicked(row) && canBeWritten(row));
  const underWay = rows.filter(isUnderWay);
  /** What is ticked follows from forecasts: nothing is written before all of them are there. */
  const pending = rows.filter((row) => isPending(row, failures));
  const withoutEdges = rows.filter(({ canAddEdges }) => canAddEdges);

  const write = () => {
    const ids = chosen.map(({ id }) => id);
    setTicked(new Map());
    void act(() => writeRows(ids), setRefused);
  };

  return (
    <div className="mx-auto flex max-w-[1600px] flex-col gap-3 p-4">
      <header className="flex flex-wrap items-start justify-between gap-4">
        <div className="min-w-0">
          <h1 className="truncate text-xl font-bold">
            {programmeId === null ? messages.allProgrammes : current?.title}
          </h1>
          <p className="truncate text-xs text-mute">
            {current ? aboutProgramme(current) : messages.programmesInThisJob(names.length)}
          </p>
        </div>
        <div className="flex flex-wrap items-center gap-2">
          <Choice
            label={messages.programme}
            value={programmeId ?? ALL_PROGRAMMES}
            options={[
              ...names.map(({ id, title }) => ({ value: id, label: title })),
              ...(names.length > 1 ? [{ value: ALL_PROGRAMMES, label: messages.allOf(names.length) }] : []),
            ]}
            onChange={(id) => router.push(stageAddress(jobId, 'hand-over', { programme: id, spec: specId }))}
          />
          <Button kind="quiet" disabled={!canUndo || isBusy} onClick={undo} title={messages.undoHint}>
            {messages.undo}
          </Button>
          {current?.film ? (
            <Button
              disabled={isBusy}
              title={messages.intoFilmHint(current.film.fileName)}
              onClick={() =>
                void act(
                  () => openFilm(current.id),
                  (lineUpId) => router.push(lineUpAddress(jobId, lineUpId)),
                )
              }
            >
              {messages.intoFilm}
            </Button>
          ) : null}
          {current ? <TagsDialog programme={current} act={edit} /> : null}
          <TemplatesMenu
            templates={sheet.templates}
            target={target}
            measured={measured}
            canSave={rows.length > 0}
            act={act}
            edit={edit}
          />
          <Button onClick={() => setIsAdding(true)} whyNot={measured === 0 ? messages.nothingMeasured : null}>
            {messages.addADelivery}
          </Button>
        </div>
      </header>

      <Card className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <Tally rows={rows} pending={pending.length} />
        <NameTemplate jobId={jobId} template={sheet.nameTemplate} example={rows[0]} act={edit} />
        <span className="ml-auto flex items-center gap-2">
          {sheet.rows.some(({ delivery }) => delivery?.written) ? (
            <>
              <ButtonLink href={`/api/jobs/${jobId}/certificates`} download>
                {messages.allCertificates}
              </ButtonLink>
              <ButtonLink href={`/api/jobs/${jobId}/written`} download title={messages.allFilesHint}>
                {messages.allFiles}
              </ButtonLink>
              <CopyOut jobId={jobId} isBusy={isBusy} act={act} />
            </>
          ) : null}
          {underWay.length > 0 ? (
            <Button
              onClick={() => act(() => cancelTasks(underWay.flatMap(({ delivery }) => delivery?.task?.taskId ?? [])))}
            >
              {messages.cancelAll(underWay.length)}
            </Button>
          ) : null}
          {withoutEdges.length > 1 ? (
            <Button
              disabled={isBusy}
              title={messages.addRoomToneHint}
              onClick={() => edit(() => addEdges(withoutEdges.map(({ id }) => id)))}
            >
              {messages.addRoomTone(withoutEdges.length)}
            </Button>
          ) : null}
          <Button
            kind="primary"
            disabled={isBusy || pending.length > 0}
            whyNot={chosen.length === 0 ? messages.tickRows : null}
            onClick={write}
          >
            {writeText(chosen.length, pending.length)}
          </Button>
        </span>
      </Card>
      <ErrorNotice error={error} onClose={clearError} />
      <Misses jobId={jobId} rows={rows} isBusy={isBusy} act={act} />
      {refused.map(({ rowId, happened, todo }) => (
        <Notice key={rowId} onClose={() => setRefused(refused.filter((own) => own.rowId !== rowId))}>
          {happened} {todo}
        </Notice>
      ))}
      {hasFfmpeg ? null : <p className="text-sm text-mute">{messages.withoutFfmpeg}</p>}

      {rows.length > 0 ? (
        <Sheet
          rows={rows}
          failures={failures}
          template={sheet.nameTemplate}
          withTitles={programmeId === null}
          jobId={jobId}
          receivers={receivers}
          isTicked={isTicked}
          onTick={tick}
          isBusy={isBusy}
          act={act}
          edit={edit}
        />
      ) : (
        <Card className="grid min-h-48 place-items-center text-center">
          {measured === 0 ? (
            <p className="text-sm text-mute">{messages.nothingIsMeasuredYet}</p>
          ) : (
            <div className="flex flex-col items-center gap-3">
              <p className="text-lg font-bold">{messages.noDeliveriesYet}</p>
              <p className="max-w-lg text-sm text-mute">{messages.howToBegin}</p>
              <Button kind="primary" onClick={() => setIsAdding(true)}>
                {messages.addADelivery}
              </Button>
            </div>
          )}
        </Card>
      )}
      <EarlierFiles files={sheet.others} />
      {isAdding ? (
        <DeliveryDialog
          title={messages.addADelivery}
          action={measured > 1 ? messages.addRows(measured) : messages.addTheRow}
          target={target}
          receivers={receivers}
          initial={usualDelivery(spec)}
          onClose={() => setIsAdding(false)}
          onDone={(wanted) => {
            setIsAdding(false);
            edit(() => addRows(target, wanted));
          }}
        />
      ) : null}
    </div>
  );
}

function aboutProgramme({ version, format, fileName }: ProgrammeView): string {
  const treatment = version === 0 ? messages.noTreatment : `treatment v${version}`;
  return messages.madeFrom(treatment, formatTime(format.durationSeconds, { milliseconds: true }), fileName);
}

/**
 * What is written unless somebody says otherwise: what will meet its spec, and what was set differently since it was.
 * Nothing is ticked before it is known, so that no tick goes away under a hand.
 */
function isWanted(row: RowView): boolean {
  const standing = standingOf(row);
  return (standing === 'planned' && row.prediction?.verdict.inside === true) || standing === 'stale';
}

function canBeWritten(row: RowView): boolean {
  return !isUnderWay(row) && !row.problem;
}

function writeText(chosen: number, pending: number): string {
  if (pending > 0) return messages.forecasting(pending);
  if (chosen === 0) return messages.nothingTicked;
  return chosen === 1 ? messages.writeOne : messages.writeMany(chosen);
}

/** How many rows stand where. A file that misses, and one that is out of date, is never counted among those that are fine. */
function Tally({ rows, pending }: { rows: readonly RowView[]; pending: number }) {
  const count = (...standings: ReturnType<typeof standingOf>[]) =>
    rows.filter((row) => standings.includes(standingOf(row))).length;
  const planned = rows.filter((row) => standingOf(row) === 'planned' && row.prediction);
  const fine = planned.filter(({ prediction }) => prediction?.verdict.inside).length;
  const wouldMiss = planned.length - fine;
  const verified = count('verified');
  const accepted = count('accepted');
  const stale = count('stale');
  const underWay = count('under-way');
  const missed = count('missed');
  return (
    <>
      {verified > 0 ? <StatePill state="inside">{messages.verified(verified)}</StatePill> : null}
      {accepted > 0 ? <StatePill state="advice">{messages.accepted(accepted)}</StatePill> : null}
      {stale > 0 ? <StatePill state="advice">{messages.outOfDate(stale)}</StatePill> : null}
      {underWay > 0 ? <StatePill state="not-measured">{messages.underWay(underWay)}</StatePill> : null}
      {missed > 0 ? <StatePill state="missed">{messages.missed(missed)}</StatePill> : null}
      {wouldMiss > 0 ? <StatePill state="missed">{messages.wouldMiss(wouldMiss)}</StatePill> : null}
      {fine > 0 ? <StatePill state="not-measured">{messages.toWrite(fine)}</StatePill> : null}
      {pending > 0 ? <StatePill state="not-measured">{messages.beingForecast(pending)}</StatePill> : null}
    </>
  );
}
