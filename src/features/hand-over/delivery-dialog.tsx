'use client';

import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { treatedProgramme } from '@/core/delivery/compose';
import { fittedFormat } from '@/core/delivery/fitted-format';
import {
  type DeliveryFormat,
  deliveryFormatSchema,
  describeFormat,
  formatProblems,
  resolveFormat,
} from '@/core/delivery/format';
import type { LevelMode } from '@/core/delivery/row';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import type { Spec } from '@/core/spec/spec';
import { MOST_REDUCTION_DB, USUAL_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { recordOf } from '@/features/common/data/fetch-json';
import { ErrorNotice } from '@/features/common/error-notice';
import { specOptions, useSpecs } from '@/features/common/specs';
import { StateMark } from '@/features/common/state-mark';
import type { ReceiverView } from '@/server/receivers/receivers';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { Segments, Switch } from '@/ui/segments';
import type { Target, WhatToDeliver } from './actions';
import { FileFields } from './file-fields';
import { deliveryDialogMessages as messages } from './messages';
import { targetsQuery } from './queries';

const KEPT_HERE = 'here';
const REDUCTIONS_DB = [1, 2, USUAL_REDUCTION_DB, 4, 6, 9, MOST_REDUCTION_DB];

/** What is added unless something else is chosen: the programme as it is set, as a WAV, or as what its spec asks for. */
export function usualDelivery(spec: Spec): WhatToDeliver {
  return {
    specId: spec.id,
    format: fittedFormat(deliveryFormatSchema.parse({ kind: 'wav' }), spec),
    levelMode: { kind: 'as-set' },
    receiverId: null,
  };
}

/** Asks what a row is to be: the spec, the file, and its level mode; what is unsupported is told at once. */
export function DeliveryDialog({
  title,
  action,
  target,
  receivers,
  initial,
  onClose,
  onDone,
}: {
  title: string;
  action: string;
  /** What it is for. */
  target: Target;
  receivers: readonly ReceiverView[];
  initial: WhatToDeliver;
  onClose: () => void;
  onDone: (wanted: WhatToDeliver) => void;
}) {
  const specs = useSpecs();
  const [specId, setSpecId] = useState(initial.specId);
  const [format, setFormat] = useState(initial.format);
  const [levelMode, setLevelMode] = useState<LevelMode>(initial.levelMode);
  const [receiverId, setReceiverId] = useState(initial.receiverId);
  const { data: programmes, error } = useQuery(targetsQuery(target));
  const treated = (programmes ?? []).map(({ treatment, format: source, title: name }) => ({
    name,
    ...treatedProgramme(treatment, source, format),
  }));
  const [first = { name: '', channels: 2, sampleRateHz: 48_000 }] = treated;
  const resolved = resolveFormat(format, first);
  const found = treated.flatMap((own) =>
    formatProblems(format, own).map((problem) => ({ ...problem, name: own.name })),
  );
  const [problem] = found;
  const set = (change: Partial<DeliveryFormat>) => setFormat({ ...format, ...change });
  const facts = FILE_FORMATS[format.kind];
  const chooseSpec = (id: string) => {
    setSpecId(id);
    const chosen = specs.find((own) => own.id === id);
    if (chosen) setFormat(fittedFormat(format, chosen));
  };
  const isSolved = levelMode.kind === 'solved';
  return (
    <Dialog
      title={title}
      description={
        programmes?.length === 1
          ? messages.forOne(programmes[0]?.title ?? '')
          : messages.forEach(programmes?.length ?? '…')
      }
      isOpen
      onOpenChange={(isOpen) => (isOpen ? undefined : onClose())}
    >
      <div className="grid grid-cols-[7rem_1fr] items-center gap-x-4 gap-y-3 overflow-y-auto text-sm">
        <span className="text-mute">{messages.spec}</span>
        <span>
          <Choice label={messages.spec} value={specId} options={specOptions(specs)} onChange={chooseSpec} />
        </span>

        {format.isPassthrough ? null : (
          <FileFields format={format} resolved={resolved} sourceRateHz={first.sampleRateHz} onChange={set} />
        )}
        <span className="text-mute">{messages.levels}</span>
        <span className="flex flex-wrap items-center gap-2">
          <Segments
            label={messages.levels}
            value={
              format.isPassthrough ? 'kept' : !isSolved ? 'as-set' : levelMode.maxReductionDb === 0 ? 'gain' : 'limiter'
            }
            options={[
              { value: 'as-set', label: messages.asSet, hint: messages.asSetHint },
              { value: 'gain', label: messages.gainOnly, hint: messages.gainOnlyHint },
              { value: 'limiter', label: messages.gainAndLimiter, hint: messages.gainAndLimiterHint },
              {
                value: 'kept',
                label: messages.tagsOnly,
                hint: messages.tagsOnlyHint,
              },
            ]}
            onChange={(kind) => {
              set({ isPassthrough: kind === 'kept', ...(kind === 'kept' ? { hasLoudnessTags: true } : {}) });
              setLevelMode(
                kind === 'as-set' || kind === 'kept'
                  ? { kind: 'as-set' }
                  : { kind: 'solved', maxReductionDb: kind === 'gain' ? 0 : USUAL_REDUCTION_DB, marginDb: 0 },
              );
            }}
          />
          {isSolved && levelMode.maxReductionDb > 0 ? (
            <Choice
              label={messages.reductionAllowed}
              value={String(levelMode.maxReductionDb)}
              options={REDUCTIONS_DB.map((db) => ({ value: String(db), label: messages.upTo(db) }))}
              onChange={(db) => setLevelMode({ ...levelMode, maxReductionDb: Number(db) })}
            />
          ) : null}
        </span>

        {facts.loudnessTags !== null || format.isPassthrough ? (
          <>
            <span className="text-mute">{messages.loudnessTags}</span>
            <span className="flex items-center gap-2">
              <Switch
                isOn={format.hasLoudnessTags}
                hint={messages.loudnessTagsHint}
                onChange={(hasLoudnessTags) => set({ hasLoudnessTags })}
              >
                {messages.writeLoudnessTags}
              </Switch>
              {format.isPassthrough ? <span className="text-xs text-mute">{messages.whereSupported}</span> : null}
            </span>
          </>
        ) : null}

        <span className="text-mute">{messages.receiver}</span>
        <span>
          <Choice
            label={messages.receiver}
            value={receiverId ?? KEPT_HERE}
            options={[
              { value: KEPT_HERE, label: 'don’t send' },
              ...receivers.map(({ id, name, transportName }) => ({
                value: id,
                label: name,
                detail: transportName,
              })),
            ]}
            onChange={(id) => setReceiverId(id === KEPT_HERE ? null : id)}
          />
        </span>
      </div>
      <ErrorNotice error={error ? recordOf(error) : undefined} />
      {problem ? (
        <p role="alert" className="flex flex-wrap items-center gap-3 rounded-control bg-breach-1 px-3 py-2 text-sm">
          <span className="grow">
            <StateMark state="over" /> {treated.length > 1 ? `${problem.name}: ` : ''}
            {problem.text}
          </span>
          <Button onClick={() => setFormat(problem.nearest)}>{messages.takeNearest(problem.nearestText)}</Button>
        </p>
      ) : null}
      <footer className="flex items-center justify-between gap-4">
        <p className="text-sm text-mute">
          {format.isPassthrough ? messages.samplesUnchanged : describeFormat(resolved)}
        </p>
        <Button
          kind="primary"
          disabled={problem !== undefined || programmes === undefined}
          onClick={() => onDone({ specId, format, levelMode, receiverId })}
        >
          {action}
        </Button>
      </footer>
    </Dialog>
  );
}
