'use client';

import { Redo2, Undo2 } from 'lucide-react';
import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { Readings } from '@/core/loudness/readings';
import { USUAL_LIMITER } from '@/core/treatment/steps/limit';
import { describeMix } from '@/core/treatment/steps/mix-channels';
import { trimmedRange } from '@/core/treatment/steps/trim';
import type { Treatment } from '@/core/treatment/treatment';
import { formatGain, formatLevel, formatNumber, formatSampleRate, formatTime } from '@/core/units/format';
import type { Treated } from '@/features/common/use-treated';
import type { AudioFormat } from '@/formats/audio-format';
import type { VersionView } from '@/server/jobs/jobs';
import type { TreatmentState } from '@/server/treatments/treatments';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { classNames } from '@/ui/class-names';
import { Segments } from '@/ui/segments';
import type { Span } from '../trace/view';
import type { Steps } from '../use-treatment';
import {
  ChannelsEditor,
  DbField,
  DITHER_LABELS,
  DitherEditor,
  FadeEditor,
  KeepEditor,
  LimiterEditor,
  PadEditor,
} from './step-editors';
import { Versions } from './versions';

const RATES_HZ = [44_100, 48_000, 88_200, 96_000] as const;

/** The ordered steps, each on or off, each with its own small control and a plain summary. */
export function TreatmentCard({
  programmeId,
  treatment,
  state,
  versions,
  treated,
  source,
  format,
  ceilingDbtp,
  span,
  starts,
  onCommit,
  onStep,
}: {
  programmeId: string;
  treatment: Treatment;
  state: TreatmentState;
  versions: readonly VersionView[];
  treated: Treated;
  /** Readings of the source. */
  source: Readings;
  format: AudioFormat;
  /** Of the spec. */
  ceilingDbtp: number;
  span: Span | null;
  /** Whole treatments to begin with. */
  starts: readonly { name: string; hint: string; steps: Steps | null }[];
  onCommit: (steps: Steps) => void;
  onStep: (direction: 'undo' | 'redo') => void;
}) {
  const steps = stepRows({ treatment, treated, source, format, ceilingDbtp, span, onCommit });
  return (
    <Card
      dense
      title="Treatment"
      remark={
        <span className="flex items-center gap-0.5 whitespace-nowrap">
          {starts.map(({ name, hint, steps: own }) => (
            <Button key={name} kind="inline" title={hint} disabled={!own} onClick={() => own && onCommit(own)}>
              {name}
            </Button>
          ))}
          <Versions programmeId={programmeId} current={state.version} versions={versions} onUse={onCommit} />
          <StepButton name="Undo" keys="Control+Z" count={state.undoable} onClick={() => onStep('undo')}>
            <Undo2 size={14} aria-hidden />
          </StepButton>
          <StepButton name="Redo" keys="Control+Shift+Z" count={state.redoable} onClick={() => onStep('redo')}>
            <Redo2 size={14} aria-hidden />
          </StepButton>
        </span>
      }
      className="flex min-h-0 min-w-0 flex-col"
    >
      <ol className="-mr-2 min-h-0 grow overflow-y-auto pr-2">
        {steps.map((step) => (
          <StepRow key={step.name} {...step} />
        ))}
      </ol>
    </Card>
  );
}

function StepButton({
  name,
  keys,
  count,
  onClick,
  children,
}: {
  name: string;
  keys: string;
  count: number;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={name}
      aria-keyshortcuts={keys}
      title={count > 0 ? `${name} (${count})` : `Nothing to ${name.toLowerCase()}`}
      disabled={count === 0}
      onClick={onClick}
      className="cursor-pointer rounded-sm p-0.5 text-slide-ink hover:bg-stock-1 disabled:cursor-default disabled:text-mute disabled:opacity-50"
    >
      {children}
    </button>
  );
}

interface Step {
  name: string;
  isOn: boolean;
  summary: string;
  /** Null where it can't be turned on or off: there is always one. */
  onToggle: ((isOn: boolean) => void) | null;
  editor: ReactNode;
}

function StepRow({ name, isOn, summary, onToggle, editor }: Step) {
  return (
    <li className="flex items-center gap-2 border-b border-hair text-[13px] leading-[18px] last:border-0">
      {onToggle ? (
        <input
          type="checkbox"
          checked={isOn}
          aria-label={`${name} on`}
          onChange={(event) => onToggle(event.target.checked)}
          className="size-3.5 shrink-0 accent-(--color-action)"
        />
      ) : (
        <span className="w-3.5 shrink-0" />
      )}
      <Popover.Root>
        <Popover.Trigger
          disabled={!editor}
          aria-label={`${name}: ${summary}. Change`}
          className="flex min-w-0 grow cursor-pointer items-baseline gap-2 rounded-sm text-left enabled:hover:bg-stock-1 disabled:cursor-default"
        >
          <span className={classNames('w-17 shrink-0 font-semibold', !isOn && 'text-mute')}>{name}</span>
          <span className={classNames('min-w-0 grow truncate text-right', !isOn && 'text-mute')}>{summary}</span>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            aria-label={name}
            side="right"
            align="start"
            sideOffset={8}
            collisionPadding={8}
            className="z-30 flex min-w-64 flex-col gap-2 rounded-card border border-hair bg-sheet p-3.5 shadow-lg"
          >
            <p className="text-sm font-bold">{name}</p>
            {editor}
            <Popover.Arrow className="fill-hair" />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </li>
  );
}

interface RowsOf {
  treatment: Treatment;
  treated: Treated;
  source: Readings;
  format: AudioFormat;
  ceilingDbtp: number;
  span: Span | null;
  onCommit: (steps: Steps) => void;
}

function stepRows({ treatment, treated, source, format, ceilingDbtp, span, onCommit }: RowsOf): Step[] {
  const {
    trim,
    resampleHz,
    removeDc,
    mix,
    paddingStart,
    paddingEnd,
    gainDb,
    limit,
    outputGainDb,
    fadeIn,
    fadeOut,
    dither,
  } = treatment;
  const { trace } = treated;
  const rateHz = resampleHz ?? format.sampleRateHz;
  const time = (frame: number) => formatTime(frame / format.sampleRateHz, { milliseconds: true });
  const kept = trimmedRange(trim, format.frames);
  const layout = channelLayout(format.channels, format.channelMask);
  const seconds = (frames: number) => `${Number((frames / rateHz).toFixed(2))} s`;
  const usualLimit = { ceilingDbtp: Math.min(0, ceilingDbtp), ...USUAL_LIMITER };
  const usualFade = { frames: Math.round(0.5 * rateHz), shape: 's-curve' } as const;
  const setRate = (next: number) =>
    onCommit({ resampleHz: next === format.sampleRateHz ? null : next, ...rescaled(treatment, next / rateHz) });
  return [
    {
      name: 'Keep',
      isOn: trim !== null,
      summary: trim ? `${time(kept.startFrame)} to ${time(kept.endFrame)}` : 'all of it',
      onToggle: (isOn) => onCommit({ trim: isOn ? (span ?? { startFrame: 0, endFrame: null }) : null }),
      editor:
        typeof trace === 'object' ? (
          <KeepEditor
            trim={trim}
            span={span}
            source={treated.source}
            trace={trace}
            onChange={(next) => onCommit({ trim: next })}
          />
        ) : null,
    },
    {
      name: 'Rate',
      isOn: resampleHz !== null && resampleHz !== format.sampleRateHz,
      summary: formatSampleRate(rateHz) + (rateHz === format.sampleRateHz ? ', as it is' : ', resampled'),
      onToggle: (isOn) => setRate(isOn ? (format.sampleRateHz === 48_000 ? 44_100 : 48_000) : format.sampleRateHz),
      editor: (
        <>
          <Segments
            label="Sample rate"
            value={`${rateHz}`}
            options={[...new Set([format.sampleRateHz, ...RATES_HZ])].map((value) => ({
              value: `${value}`,
              label: formatSampleRate(value),
            }))}
            onChange={(value) => setRate(Number(value))}
          />
          <p className="max-w-72 text-xs text-mute">
            Resampling makes new peaks, so that it comes ahead of gain and limiter, and everything is measured behind
            it.
          </p>
        </>
      ),
    },
    {
      name: 'DC',
      isOn: removeDc,
      summary: removeDc ? `offset of ${dcText(source)} removed` : `offset is ${dcText(source)}`,
      onToggle: (isOn) => onCommit({ removeDc: isOn }),
      editor: null,
    },
    {
      name: 'Channels',
      isOn: mix !== 'stereo',
      summary: format.channels === 2 ? describeMix(mix) : `${layout.name}, as they are`,
      onToggle: format.channels === 2 ? (isOn) => onCommit({ mix: isOn ? 'mono-3' : 'stereo' }) : null,
      editor: format.channels === 2 ? <ChannelsEditor mix={mix} onChange={(next) => onCommit({ mix: next })} /> : null,
    },
    {
      name: 'Room',
      isOn: paddingStart !== null || paddingEnd !== null,
      summary:
        [paddingStart && `${seconds(paddingStart.frames)} ahead`, paddingEnd && `${seconds(paddingEnd.frames)} behind`]
          .filter(Boolean)
          .join(', ') || 'nothing added',
      onToggle: (isOn) =>
        onCommit(
          isOn
            ? {
                paddingStart: { frames: Math.round(0.5 * rateHz), kind: 'silence' },
                paddingEnd: { frames: rateHz, kind: 'silence' },
              }
            : { paddingStart: null, paddingEnd: null },
        ),
      editor: (
        <>
          <PadEditor
            label="Ahead"
            pad={paddingStart}
            sampleRateHz={rateHz}
            sourceRateHz={format.sampleRateHz}
            span={span}
            onChange={(next) => onCommit({ paddingStart: next })}
          />
          <PadEditor
            label="Behind"
            pad={paddingEnd}
            sampleRateHz={rateHz}
            sourceRateHz={format.sampleRateHz}
            span={span}
            onChange={(next) => onCommit({ paddingEnd: next })}
          />
        </>
      ),
    },
    {
      name: 'Gain',
      isOn: gainDb !== 0,
      summary: formatGain(gainDb, 2),
      onToggle: null,
      editor: (
        <DbField
          label="Gain"
          valueDb={gainDb}
          least={-60}
          most={60}
          onCommit={(value) => onCommit({ gainDb: value })}
        />
      ),
    },
    {
      name: 'Limiter',
      isOn: limit !== null,
      summary: limit ? limitText(limit.ceilingDbtp, treated) : 'none',
      onToggle: (isOn) => onCommit({ limit: isOn ? usualLimit : null }),
      editor: (
        <LimiterEditor
          limit={limit ?? usualLimit}
          hasLfe={layout.channels.some(({ weight }) => weight === 0)}
          onChange={(next) => onCommit({ limit: next })}
        />
      ),
    },
    {
      name: 'Trim',
      isOn: outputGainDb !== 0,
      summary: outputGainDb === 0 ? 'none' : `${formatGain(outputGainDb, 2)} behind the limiter`,
      onToggle: (isOn) => onCommit({ outputGainDb: isOn ? -0.1 : 0 }),
      editor: (
        <DbField
          label="Trim"
          valueDb={outputGainDb}
          least={-24}
          most={0}
          onCommit={(value) => onCommit({ outputGainDb: value })}
        />
      ),
    },
    {
      name: 'Fades',
      isOn: fadeIn !== null || fadeOut !== null,
      summary:
        [fadeIn && `in ${seconds(fadeIn.frames)}`, fadeOut && `out ${seconds(fadeOut.frames)}`]
          .filter(Boolean)
          .join(', ') || 'none',
      onToggle: (isOn) => onCommit(isOn ? { fadeIn: usualFade, fadeOut: usualFade } : { fadeIn: null, fadeOut: null }),
      editor: (
        <>
          <FadeEditor label="In" fade={fadeIn} sampleRateHz={rateHz} onChange={(next) => onCommit({ fadeIn: next })} />
          <FadeEditor
            label="Out"
            fade={fadeOut}
            sampleRateHz={rateHz}
            onChange={(next) => onCommit({ fadeOut: next })}
          />
        </>
      ),
    },
    {
      name: 'Dither',
      isOn: dither !== null,
      summary: dither === null ? 'by what is written' : DITHER_LABELS[dither],
      onToggle: (isOn) => onCommit({ dither: isOn ? 'tpdf' : null }),
      editor: <DitherEditor dither={dither} onChange={(next) => onCommit({ dither: next })} />,
    },
  ];
}

/** Lengths that are counted at the rate that is written stay as long as they are. */
function rescaled({ paddingStart, paddingEnd, fadeIn, fadeOut }: Treatment, ratio: number): Steps {
  const scale = <T extends { frames: number }>(step: T | null) =>
    step && { ...step, frames: Math.max(1, Math.round(step.frames * ratio)) };
  return {
    paddingStart: scale(paddingStart),
    paddingEnd: scale(paddingEnd),
    fadeIn: scale(fadeIn),
    fadeOut: scale(fadeOut),
  };
}

function dcText({ perChannel }: Readings): string {
  const most = perChannel.reduce((greatest, { dcOffset }) => Math.max(greatest, Math.abs(dcOffset)), 0);
  return `${formatNumber(100 * most, 3)} %`;
}

function limitText(ceilingDbtp: number, { limited }: Treated): string {
  const at = `at ${formatLevel(ceilingDbtp, 'dBTP')}`;
  if (typeof limited !== 'object') return limited === 'failed' ? `${at}, cost not known` : `${at} …`;
  const { greatestDb } = limited.limited.reduction;
  return greatestDb === 0 ? `${at}, nothing to do` : `${at}, ${formatNumber(-greatestDb)} dB at most`;
}
