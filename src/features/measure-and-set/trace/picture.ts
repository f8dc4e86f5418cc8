import type { Over } from '@/core/peak/overs';
import type { Spec } from '@/core/spec/spec';
import type { Timeline } from '@/core/treatment/timeline';
import type { Treatment } from '@/core/treatment/treatment';
import type { StartTimeCode } from '@/core/units/time-code';
import type { Colours } from '@/features/common/colours';
import type { ReductionStretch } from '@/workers/protocol';
import type { Place } from '../places';
import type { Height } from './scales';
import type { WaveformTiles } from './tiles';
import type { View } from './view';

/** One value for every 100 ms of the treated programme. */
export interface Curve {
  values: Float32Array;
  gainDb: number;
}

/** Everything that the trace shows of a programme, but for the stretch that is looked at. */
export interface Picture {
  sampleRateHz: number;
  timeline: Timeline;
  treatment: Treatment;
  spec: Spec;
  /** The source, and what is treated of it where that is not the same. */
  source: WaveformTiles;
  treated: WaveformTiles;
  /** How many of their tiles have come: a picture with another one is another. */
  tilesLoaded: number;
  shortTermBefore: Curve;
  shortTerm: Curve;
  momentary: Curve;
  integrated: Curve;
  /** Greatest reduction of every 100 ms in dB; null where nothing is limited. */
  reductionsDb: Float32Array | null;
  /** Gain reduction node by node, in frames of the treated programme, of what is looked at from near. */
  fineReduction: ReductionStretch | null;
  overs: readonly Over[];
  selected: Place | undefined;
  /** Of the source; null where its file states none. */
  timeCode: StartTimeCode | null;
  markers: readonly { startFrame: number; endFrame: number | null }[];
}

export interface Look {
  height: Height;
  /** Every channel by itself. */
  isSeparate: boolean;
  colours: Colours;
}

export interface Area {
  context: CanvasRenderingContext2D;
  view: View;
  width: number;
  height: number;
}

export function line(context: CanvasRenderingContext2D, x1: number, y1: number, x2: number, y2: number): void {
  context.beginPath();
  context.moveTo(x1, y1);
  context.lineTo(x2, y2);
  context.stroke();
}
