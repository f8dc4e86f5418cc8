'use client';

import { useState } from 'react';
import { treatedProgramme } from '@/core/delivery/compose';
import {
  type Arrangement,
  type DeliveryFormat,
  deliveryFormatSchema,
  describeFormat,
  formatProblems,
  rates,
  resolveFormat,
} from '@/core/delivery/format';
import type { LevelMode } from '@/core/delivery/row';
import { FILE_FORMATS, FILE_KINDS, type FileKind, isLossy } from '@/core/file-formats/file-formats';
import type { Spec } from '@/core/spec/spec';
import { MOST_REDUCTION_DB, USUAL_REDUCTION_DB } from '@/core/treatment/limited-solver';
import type { Dither } from '@/core/treatment/steps/dither';
import { formatSampleRate } from '@/core/units/format';
import { specOptions, useSpecs } from '@/features/common/specs';
import { StateMark } from '@/features/common/state-mark';
import type { ProgrammeView } from '@/server/jobs/jobs';
import type { ReceiverView } from '@/server/receivers/receivers';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { Dialog } from '@/ui/dialog';
import { Segments, Switch } from '@/ui/segments';
import type { WhatToDeliver } from './actions';

const KEPT_HERE = 'here';
const RATES_HZ = [44_100, 48_000, 88_200, 96_000, 192_000, 32_000, 24_000];
const DITHER_NAMES: Readonly<Record<Dither, string>> = {
  none: 'none',
  rpdf: 'rectangular',
  tpdf: 'triangular',
  shaped: 'noise-shaped',
};
const REDUCTIONS_DB = [1, 2, USUAL_REDUCTION_DB, 4, 6, 9, MOST_REDUCTION_DB];

/** What is added unless something else is chosen: the programme as it is set, as a WAV, or as what its spec asks for. */
export function usualDelivery(spec: Spec): WhatToDeliver {
  return {
    specId: spec.id,
    format: fitted(deliveryFormatSchema.parse({ kind: 'wav' }), spec),
    levelMode: { kind: 'as-set' },
    receiverId: null,
  };
}

/** What a spec asks of the file, in place of what it does not accept. */
function fitted(format: DeliveryFormat, { files, channels, sampleRatesHz, bitDepths, bitRate }: Spec): DeliveryFormat {
  const kind = files && !files.includes(format.kind) ? (files[0] as FileKind) : format.kind;
  const facts = FILE_FORMATS[kind];
  const depth = facts.depths.find((own) => !bitDepths || bitDepths.includes(own)) ?? null;
  const isDepthFine = kind === format.kind && (!bitDepths || (format.bitDepth && bitDepths.includes(format.bitDepth)));
  const isRateFine = !sampleRatesHz || (format.sampleRateHz !== null && sampleRatesHz.includes(format.sampleRateHz));
  return {
    ...format,
    kind,
    arrangement: channels?.length === 1 && channels[0] === 1 ? 'mono' : format.arrangement,
    sampleRateHz: isRateFine ? format.sampleRateHz : (sampleRatesHz?.[0] ?? null),
    bitDepth: isLossy(kind) ? null : isDepthFine ? format.bitDepth : bitDepths ? depth : null,
    mode: kind === format.kind ? format.mode : (bitRate?.modes.find((own) => facts.modes.includes(own)) ?? null),
    bitRateKbps: kind === format.kind ? format.bitRateKbps : null,
  };
}

/** Asks what a row is to be: the spec, the file, and its level mode; what is unsupported is told at once. */
export function DeliveryDialog({
  title,
  action,
  programmes,
  receivers,
  initial,
  onClose,
  onDone,
}: {
  title: string;
  action: string;
  /** Those that it is for. */
  programmes: readonly ProgrammeView[];
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
  const treated = programmes.map(({ treatment, format: source, title: name }) => ({
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
    if (chosen) setFormat(fitted(format, chosen));
  };
  const isSolved = levelMode.kind === 'solved';
  return (
    <Dialog
      title={title}
      description={
        programmes.length === 1
          ? `For ${programmes[0]?.title}. Nothing is written yet.`
          : `One for each of ${programmes.length} programmes. Nothing is written yet.`
      }
      isOpen
      onOpenChange={(isOpen) => (isOpen ? undefined : onClose())}
    >
      <div className="grid grid-cols-[7rem_1fr] items-center gap-x-4 gap-y-3 overflow-y-auto text-sm">
        <span className="text-mute">Spec</span>
        <span>
          <Choice label="Spec" value={specId} options={specOptions(specs)} onChange={chooseSpec} />
        </span>

        {format.isPassthrough ? null : (
          <>
            <span className="text-mute">File</span>
            <span className="flex flex-wrap items-center gap-2">
              <Choice
                label="File"
                value={format.kind}
                options={FILE_KINDS.map((kind) => ({
                  value: kind,
                  label: FILE_FORMATS[kind].name,
                  detail: isLossy(kind) ? 'lossy' : '',
                }))}
                onChange={(kind) =>
                  set({ kind: kind as FileKind, bitDepth: null, mode: null, bitRateKbps: null, dither: null })
                }
              />
              <Segments<Arrangement>
                label="Channels"
                value={format.arrangement}
                options={[
                  { value: 'interleaved', label: 'one file' },
                  { value: 'split', label: 'split', hint: 'A file for each channel' },
                  { value: 'mono', label: 'mono', hint: 'The mean of both channels' },
                ]}
                onChange={(arrangement) => set({ arrangement })}
              />
            </span>

            <span className="text-mute">Rate</span>
            <span>
              <Choice
                label="Rate"
                value={String(format.sampleRateHz ?? 0)}
                options={[
                  { value: '0', label: `unchanged, ${formatSampleRate(first.sampleRateHz)}` },
                  ...RATES_HZ.map((rate) => ({ value: String(rate), label: formatSampleRate(rate) })),
                ]}
                onChange={(rate) => set({ sampleRateHz: rate === '0' ? null : Number(rate) })}
              />
            </span>

            {facts.modes.length > 0 ? (
              <>
                <span className="text-mute">Bit rate</span>
                <span className="flex flex-wrap items-center gap-2">
                  {facts.modes.length > 1 ? (
                    <Segments
                      label="Mode"
                      value={resolved.mode ?? 'constant'}
                      options={facts.modes.map((mode) => ({ value: mode, label: mode }))}
                      onChange={(mode) => set({ mode, bitRateKbps: null })}
                    />
                  ) : (
                    <span>{facts.modes[0]}</span>
                  )}
                  <Choice
                    label="Bit rate"
                    value={String(resolved.bitRateKbps)}
                    options={rates(format.kind, resolved.mode ?? 'constant').map((kbps) => ({
                      value: String(kbps),
                      label: `${kbps} kbit/s`,
                    }))}
                    onChange={(kbps) => set({ bitRateKbps: Number(kbps), mode: resolved.mode })}
                  />
                </span>
              </>
            ) : (
              <>
                <span className="text-mute">Depth</span>
                <span className="flex flex-wrap items-center gap-2">
                  <Segments
                    label="Depth"
                    value={String(resolved.bitDepth)}
                    options={([16, 24, 32] as const)
                      .filter((bits) => facts.depths.includes(bits))
                      .map((bits) => ({ value: String(bits), label: bits === 32 ? '32 float' : `${bits} bit` }))}
                    onChange={(bits) => set({ bitDepth: Number(bits) as 16 | 24 | 32 })}
                  />
                  {resolved.bitDepth === 32 ? null : (
                    <>
                      <span className="pl-2 text-mute">dither</span>
                      <Choice
                        label="Dither"
                        value={format.dither ?? 'usual'}
                        options={[
                          {
                            value: 'usual',
                            label: resolved.bitDepth === 16 ? 'default (triangular)' : 'default (none)',
                          },
                          ...Object.entries(DITHER_NAMES).map(([value, label]) => ({ value, label })),
                        ]}
                        onChange={(dither) => set({ dither: dither === 'usual' ? null : (dither as Dither) })}
                      />
                      <Switch
                        isOn={format.isDitherSilenced}
                        hint="No dither where the programme is digital silence"
                        onChange={(isDitherSilenced) => set({ isDitherSilenced })}
                      >
                        no dither in silence
                      </Switch>
                    </>
                  )}
                </span>
              </>
            )}
          </>
        )}
        <span className="text-mute">Levels</span>
        <span className="flex flex-wrap items-center gap-2">
          <Segments
            label="Levels"
            value={
              format.isPassthrough ? 'kept' : !isSolved ? 'as-set' : levelMode.maxReductionDb === 0 ? 'gain' : 'limiter'
            }
            options={[
              { value: 'as-set', label: 'as set', hint: 'Gain and limiter as set on the desk' },
              { value: 'gain', label: 'gain only', hint: 'The gain that this spec asks for, without limiting' },
              { value: 'limiter', label: 'gain and limiter', hint: 'To the target, within the reduction allowed' },
              {
                value: 'kept',
                label: 'tags only',
                hint: 'A passthrough: the source file with its samples unchanged, and new tags',
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
              label="Reduction allowed"
              value={String(levelMode.maxReductionDb)}
              options={REDUCTIONS_DB.map((db) => ({ value: String(db), label: `up to ${db} dB` }))}
              onChange={(db) => setLevelMode({ ...levelMode, maxReductionDb: Number(db) })}
            />
          ) : null}
        </span>

        {facts.loudnessTags !== null || format.isPassthrough ? (
          <>
            <span className="text-mute">Loudness tags</span>
            <span className="flex items-center gap-2">
              <Switch
                isOn={format.hasLoudnessTags}
                hint="ReplayGain 2.0, or R128 gain in Opus, as measured from the written file"
                onChange={(hasLoudnessTags) => set({ hasLoudnessTags })}
              >
                write loudness tags
              </Switch>
              {format.isPassthrough ? (
                <span className="text-xs text-mute">where the source’s format supports them</span>
              ) : null}
            </span>
          </>
        ) : null}

        <span className="text-mute">Receiver</span>
        <span>
          <Choice
            label="Receiver"
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
      {problem ? (
        <p role="alert" className="flex flex-wrap items-center gap-3 rounded-control bg-breach-1 px-3 py-2 text-sm">
          <span className="grow">
            <StateMark state="over" /> {programmes.length > 1 ? `${problem.name}: ` : ''}
            {problem.text}
          </span>
          <Button onClick={() => setFormat(problem.nearest)}>Use {problem.nearestText}</Button>
        </p>
      ) : null}
      <footer className="flex items-center justify-between gap-4">
        <p className="text-sm text-mute">
          {format.isPassthrough ? 'The source file, samples unchanged' : describeFormat(resolved)}
        </p>
        <Button
          kind="primary"
          disabled={problem !== undefined}
          onClick={() => onDone({ specId, format, levelMode, receiverId })}
        >
          {action}
        </Button>
      </footer>
    </Dialog>
  );
}
