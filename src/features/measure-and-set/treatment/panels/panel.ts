import type { ReactNode } from 'react';
import type { Readings } from '@/core/loudness/readings';
import type { StepName, Treatment } from '@/core/treatment/treatment';
import type { StartTimeCode } from '@/core/units/time-code';
import type { Treated } from '@/features/common/use-treated';
import type { AudioFormat } from '@/formats/audio-format';
import type { Span } from '../../trace/view';
import type { Steps } from '../../use-treatment';

/** What a panel is made from. */
export interface PanelContext {
  treatment: Treatment;
  treated: Treated;
  /** Readings of the source. */
  source: Readings;
  format: AudioFormat;
  /** Of the source; null where its file states none. */
  timeCode: StartTimeCode | null;
  /** Sample rate that is written. */
  rateHz: number;
  /** Of the spec. */
  ceilingDbtp: number;
  span: Span | null;
  onCommit: (steps: Steps) => void;
}

/** A row of the treatment card as it stands. */
export interface PanelState {
  isOn: boolean;
  summary: string;
  /** Null where it can't be turned on or off: there is always one. */
  onToggle: ((isOn: boolean) => void) | null;
  /** Null where there is nothing more to set. */
  editor: ReactNode;
}

/** The row of one step, or of two that belong together, and the controls that it opens. */
export interface StepPanel<Name extends StepName = StepName> {
  name: string;
  steps: readonly Name[];
  state(context: PanelContext): PanelState;
}

export function definePanel<Name extends StepName>(own: StepPanel<Name>): StepPanel<Name> {
  return own;
}

/** Such as "0.5 s". */
export function secondsText(frames: number, rateHz: number): string {
  return `${Number((frames / rateHz).toFixed(2))} s`;
}
