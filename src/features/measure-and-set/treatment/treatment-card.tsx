'use client';

import { Redo2, Undo2 } from 'lucide-react';
import { Popover } from 'radix-ui';
import type { ReactNode } from 'react';
import type { Readings } from '@/core/loudness/readings';
import type { StepName, Treatment } from '@/core/treatment/treatment';
import type { StartTimeCode } from '@/core/units/time-code';
import type { Treated } from '@/features/common/use-treated';
import type { AudioFormat } from '@/formats/audio-format';
import type { VersionView } from '@/server/jobs/programme-view';
import type { TreatmentState } from '@/server/treatments/treatments';
import { Button } from '@/ui/button';
import { Card } from '@/ui/card';
import { classNames } from '@/ui/class-names';
import type { Span } from '../trace/view';
import type { Steps } from '../use-treatment';
import { treatmentCardMessages as messages } from './messages';
import type { PanelState } from './panels/panel';
import { PANELS } from './panels/panels';
import { Versions } from './versions';

/** The ordered steps, each on or off, each with its own small control and a plain summary. */
export function TreatmentCard({
  programmeId,
  treatment,
  state: edits,
  versions,
  treated,
  source,
  format,
  timeCode,
  ceilingDbtp,
  span,
  starts,
  openStep,
  onOpenStep,
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
  /** Null where the file states none. */
  timeCode: StartTimeCode | null;
  /** Of the spec. */
  ceilingDbtp: number;
  span: Span | null;
  /** Whole treatments to begin with. */
  starts: readonly { name: string; hint: string; steps: Steps | null }[];
  /** The step whose controls are open. */
  openStep: StepName | undefined;
  onOpenStep: (step: StepName | undefined) => void;
  onCommit: (steps: Steps) => void;
  onStep: (direction: 'undo' | 'redo') => void;
}) {
  const rateHz = treatment.resampleHz ?? format.sampleRateHz;
  const context = { treatment, treated, source, format, timeCode, rateHz, ceilingDbtp, span, onCommit };
  return (
    <Card
      dense
      title={messages.treatment}
      remark={
        <span className="flex items-center gap-0.5 whitespace-nowrap">
          {starts.map(({ name, hint, steps: own }) => (
            <Button
              key={name}
              kind="inline"
              title={hint}
              whyNot={own ? null : messages.noLevel}
              onClick={() => own && onCommit(own)}
            >
              {name}
            </Button>
          ))}
          <Versions programmeId={programmeId} current={edits.version} versions={versions} onUse={onCommit} />
          <StepButton name="Undo" keys="Control+Z" count={edits.undoable} onClick={() => onStep('undo')}>
            <Undo2 size={14} aria-hidden />
          </StepButton>
          <StepButton name="Redo" keys="Control+Shift+Z" count={edits.redoable} onClick={() => onStep('redo')}>
            <Redo2 size={14} aria-hidden />
          </StepButton>
        </span>
      }
      className="flex min-h-0 min-w-0 flex-col"
    >
      <ol className="-mr-2 min-h-0 grow overflow-y-auto pr-2">
        {PANELS.map(({ name, steps, state }) => (
          <StepRow
            key={name}
            name={name}
            isOpen={openStep !== undefined && steps.includes(openStep)}
            onOpen={(isOpen) => onOpenStep(isOpen ? steps[0] : undefined)}
            {...state(context)}
          />
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
      title={count > 0 ? `${name} (${count})` : messages.nothingTo(name.toLowerCase())}
      disabled={count === 0}
      onClick={onClick}
      className="cursor-pointer rounded-sm p-0.5 text-slide-ink hover:bg-stock-1 disabled:cursor-default disabled:text-mute disabled:opacity-50"
    >
      {children}
    </button>
  );
}

function StepRow({
  name,
  isOpen,
  onOpen,
  isOn,
  summary,
  onToggle,
  editor,
}: PanelState & { name: string; isOpen: boolean; onOpen: (isOpen: boolean) => void }) {
  return (
    <li className="flex items-center gap-2 border-b border-hair text-[13px] leading-[18px] last:border-0">
      {onToggle ? (
        <input
          type="checkbox"
          checked={isOn}
          aria-label={messages.stepOn(name)}
          onChange={(event) => onToggle(event.target.checked)}
          className="size-3.5 shrink-0 accent-(--color-action)"
        />
      ) : (
        <span className="w-3.5 shrink-0" />
      )}
      <Popover.Root open={isOpen && editor !== null} onOpenChange={onOpen}>
        <Popover.Trigger
          disabled={!editor}
          title={editor ? undefined : messages.nothingMore}
          aria-label={messages.changeStep(name, summary)}
          className="flex min-w-0 grow cursor-pointer items-baseline gap-2 rounded-sm text-left enabled:hover:bg-stock-1 disabled:cursor-default"
        >
          <span className={classNames('w-20 shrink-0 font-semibold', !isOn && 'text-mute')}>{name}</span>
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
