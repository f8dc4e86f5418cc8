'use client';

import { useSuspenseQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { type LineUpFields, type LineUpKind, USUAL_RECORD } from '@/core/lineup/line-up';
import { lineUpAddress } from '@/features/common/address';
import { namesQuery } from '@/features/common/data/queries';
import { useChanged } from '@/features/common/data/use-changed';
import { ErrorNotice } from '@/features/common/error-notice';
import { useSaveStatus } from '@/features/common/save-status';
import { SideList } from '@/features/common/side-list';
import { useSpecs } from '@/features/common/specs';
import { useAct } from '@/features/common/use-act';
import { useUndo } from '@/features/common/use-undo';
import type { LineUpView } from '@/server/line-ups/line-ups';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { changeLineUp, giveIsrcs, makeLineUp, numberRecord, removeLineUp } from './actions';
import { Film } from './film/film';
import { LineUpDialog, type LineUpForm } from './line-up-dialog';
import { kindMessages, lineUpDialogMessages, lineUpMessages as messages } from './messages';
import { lineUpsQuery } from './queries';
import { Stems } from './stems/stems';
import { useChanges } from './use-changes';
import { Whole } from './whole';

/** The stage: programmes that belong together, seen and set as a whole. */
export function LineUp({
  jobId,
  lineUpId,
  specId,
}: {
  jobId: string;
  /** Null where the job has none. */
  lineUpId: string | null;
  specId: string;
}) {
  const router = useRouter();
  const specs = useSpecs();
  const { track } = useSaveStatus();
  const { act, isBusy, error, clearError } = useAct(useChanged(), track);
  const { data, dataUpdatedAt } = useSuspenseQuery(lineUpsQuery(jobId));
  const { data: names } = useSuspenseQuery(namesQuery(jobId));
  const { proposals } = data;
  const { shown: lineUps, begin, answered } = useChanges(data.lineUps, dataUpdatedAt);
  // The one in the address, unless it was deleted just now.
  const current = lineUps.find(({ id }) => id === lineUpId) ?? lineUps[0] ?? null;
  /** A line-up as it was when somebody began to edit it. */
  const [isAsking, setIsAsking] = useState<'new' | LineUpView>();
  const edited = isAsking === 'new' ? undefined : isAsking;
  const { canUndo, undo, remember } = useUndo();

  const show = (id: string) => router.push(lineUpAddress(jobId, id));
  const make = (
    kind: LineUpKind,
    name: string,
    programmeIds: readonly string[],
    record = USUAL_RECORD,
    firstIsrc = '',
  ) =>
    act(
      () => makeLineUp(jobId, { kind, name, record, members: programmeIds.map((programmeId) => ({ programmeId })) }),
      (id) => {
        remember(() => void act(() => removeLineUp(id, true)));
        show(id);
        if (firstIsrc !== '') void number(id, firstIsrc);
      },
    );
  /** Changes a line-up, so that it can be taken back. */
  const change = (lineUp: LineUpView, wanted: Partial<LineUpFields>) => {
    const { id } = lineUp;
    // No more of it than was changed: the rest may be another by then.
    const before = Object.fromEntries(Object.keys(wanted).map((key) => [key, lineUp[key as keyof LineUpFields]]));
    begin(id, wanted);
    let isDone = false;
    return act(
      () => changeLineUp(id, wanted, before),
      () => {
        isDone = true;
        answered(id, true);
        remember(() => void act(() => changeLineUp(id, before, wanted)));
      },
    ).finally(() => {
      if (!isDone) answered(id, false);
    });
  };
  const remove = (id: string) =>
    act(
      () => removeLineUp(id, true),
      () => {
        remember(
          () =>
            void act(
              () => removeLineUp(id, false),
              () => show(id),
            ),
        );
        router.push(lineUpAddress(jobId, null));
      },
    );
  const number = (lineUpId: string, first: string) =>
    act(
      () => numberRecord(lineUpId, first),
      (numbered) => {
        const before = numbered.map(({ programmeId, was }) => ({ programmeId, isrc: was }));
        remember(() => void act(() => giveIsrcs(before)));
      },
    );
  const save = async ({ kind, name, programmeIds, record, firstIsrc }: LineUpForm) => {
    setIsAsking(undefined);
    if (edited) {
      const gaps = new Map(edited.members.map((member) => [member.programmeId, member.gapSeconds]));
      const members = programmeIds.map((programmeId) => ({ programmeId, gapSeconds: gaps.get(programmeId) ?? 0 }));
      const wanted = differing(edited, { kind, name, members, record });
      if (Object.keys(wanted).length > 0) await change(edited, wanted);
      if (firstIsrc !== '') await number(edited.id, firstIsrc);
    } else await make(kind, name, programmeIds, record, firstIsrc);
  };

  return (
    <div className="mx-auto grid max-w-[1600px] items-start gap-4 p-4 lg:grid-cols-[13rem_1fr]">
      <aside className="flex flex-col gap-4">
        <div className="flex flex-wrap gap-2">
          <Button onClick={() => setIsAsking('new')}>{messages.newLineUp}</Button>
          <Button kind="quiet" disabled={!canUndo} onClick={undo} title={messages.undoHint}>
            {messages.undo}
          </Button>
        </div>
        <SideList
          label={messages.lineUps}
          currentId={current?.id ?? ''}
          groups={[
            {
              title: messages.lineUps,
              items: lineUps.map(({ id, name, kind, members }) => ({
                id,
                href: lineUpAddress(jobId, id),
                label: (
                  <>
                    <span className="block truncate font-bold">{name}</span>
                    <span className="block text-xs font-normal text-mute">
                      {messages.about(kindMessages[kind], members.length)}
                    </span>
                  </>
                ),
              })),
            },
          ]}
        />
        {proposals.length > 0 ? (
          <section>
            <h2 className="mb-1 px-2 text-xs text-mute">{messages.proposed}</h2>
            <ul className="flex flex-col gap-1">
              {proposals.map(({ kind, name, programmeIds }) => (
                <li
                  key={`${kind} ${name}`}
                  className="flex items-center justify-between gap-2 rounded-control border border-dashed border-stock-2 px-2 py-1"
                >
                  <span className="min-w-0 text-sm">
                    <span className="block truncate font-semibold">{name}</span>
                    <span className="block text-xs text-mute">
                      {messages.about(kindMessages[kind], programmeIds.length)}
                    </span>
                  </span>
                  <Button kind="inline" disabled={isBusy} onClick={() => void make(kind, name, programmeIds)}>
                    {messages.make}
                  </Button>
                </li>
              ))}
            </ul>
          </section>
        ) : null}
      </aside>
      <div className="flex min-w-0 flex-col gap-3">
        <ErrorNotice error={error} onClose={clearError} />
        {current?.kind === 'stems' ? (
          <Stems
            key={current.id}
            jobId={jobId}
            lineUp={current}
            specId={current.specId ?? specId}
            isBusy={isBusy}
            act={act}
            change={change}
            onEdit={() => setIsAsking(current)}
            onRemove={() => void remove(current.id)}
          />
        ) : current?.kind === 'film' ? (
          <Film
            key={current.id}
            jobId={jobId}
            lineUp={current}
            specId={current.specId ?? specId}
            isBusy={isBusy}
            act={act}
            change={change}
            onEdit={() => setIsAsking(current)}
            onRemove={() => void remove(current.id)}
          />
        ) : current ? (
          <Whole
            key={current.id}
            jobId={jobId}
            lineUp={current}
            specId={current.specId ?? specId}
            isBusy={isBusy}
            act={act}
            remember={remember}
            change={change}
            onEdit={() => setIsAsking(current)}
            onRemove={() => void remove(current.id)}
          />
        ) : (
          <Card className="py-6">
            <h1 className="text-lg font-bold">{messages.none}</h1>
            <p className="max-w-[60ch] text-sm text-mute">{messages.whatItIs}</p>
          </Card>
        )}
      </div>
      {isAsking ? (
        <LineUpDialog
          title={edited ? lineUpDialogMessages.editTitle(edited.name) : lineUpDialogMessages.newTitle}
          programmes={names}
          initial={
            edited
              ? {
                  kind: edited.kind,
                  name: edited.name,
                  programmeIds: edited.members.map((own) => own.programmeId),
                  record: edited.record,
                  firstIsrc: '',
                }
              : { kind: 'record', name: '', programmeIds: [], record: USUAL_RECORD, firstIsrc: '' }
          }
          ceilingDb={specs.find(({ id }) => id === (edited?.specId ?? specId))?.peak.ceiling ?? -1}
          saveLabel={edited ? lineUpDialogMessages.save : lineUpDialogMessages.make}
          onSave={(form) => void save(form)}
          onClose={() => setIsAsking(undefined)}
        />
      ) : null}
    </div>
  );
}

/** What of some fields is not as it was. */
function differing(before: LineUpFields, after: Partial<LineUpFields>): Partial<LineUpFields> {
  const isOther = (key: string) =>
    JSON.stringify(before[key as keyof LineUpFields]) !== JSON.stringify(after[key as keyof LineUpFields]);
  return Object.fromEntries(Object.entries(after).filter(([key]) => isOther(key)));
}
