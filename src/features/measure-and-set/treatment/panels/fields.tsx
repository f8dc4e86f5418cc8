'use client';

import { roundGain } from '@/core/treatment/steps/gain';
import { formatNumber, formatTime } from '@/core/units/format';
import { parseNumber, parseTime } from '@/core/units/parse';
import { frameAtTimeCode, type StartTimeCode } from '@/core/units/time-code';
import { TypedField } from '@/ui/typed-field';

/** A time in frames, typed as a time, as frames, or as a time code where there is one. */
export function TimeField({
  label,
  frame,
  sampleRateHz,
  most,
  timeCode = null,
  isLabelled = true,
  onCommit,
}: {
  label: string;
  frame: number;
  sampleRateHz: number;
  most: number;
  /** Of frame 0. */
  timeCode?: StartTimeCode | null;
  isLabelled?: boolean;
  onCommit: (frame: number) => void;
}) {
  return (
    <TypedField
      label={label}
      isLabelled={isLabelled}
      {...(isLabelled ? {} : { className: 'w-20! px-1!' })}
      value={frame}
      format={(value) => formatTime(value / sampleRateHz, { milliseconds: true })}
      parse={(text) => {
        const labelled = timeCode ? frameAtTimeCode(timeCode, text, sampleRateHz) : undefined;
        return within(labelled ?? parseTime(text, sampleRateHz), 0, most);
      }}
      onCommit={onCommit}
      onStep={(steps) => onCommit(Math.min(most, Math.max(0, frame + steps * Math.round(sampleRateHz / 1000))))}
    />
  );
}

export function DbField({
  label,
  valueDb,
  least,
  most,
  unit = 'dB',
  onCommit,
}: {
  label: string;
  valueDb: number;
  least: number;
  most: number;
  unit?: 'dB' | 'dBTP';
  onCommit: (valueDb: number) => void;
}) {
  return (
    <TypedField
      label={label}
      value={valueDb}
      format={(value) => `${formatNumber(value, 2, { plus: unit === 'dB' })} ${unit}`}
      parse={(text) => within(parseNumber(text, unit), least, most)}
      onCommit={(value) => onCommit(roundGain(value))}
      onStep={(steps) => onCommit(roundGain(Math.min(most, Math.max(least, valueDb + steps / 10))))}
    />
  );
}

export function SecondsField({
  label,
  frames,
  sampleRateHz,
  onCommit,
}: {
  label: string;
  frames: number;
  sampleRateHz: number;
  onCommit: (frames: number) => void;
}) {
  return (
    <TypedField
      label={label}
      value={frames}
      format={(value) => `${formatNumber(value / sampleRateHz, 3)} s`}
      parse={(text) => within(parseTime(text, sampleRateHz), 0, 600 * sampleRateHz)}
      onCommit={onCommit}
      onStep={(steps) => onCommit(Math.max(0, frames + steps * Math.round(sampleRateHz / 10)))}
    />
  );
}

export function within(value: number | undefined, least: number, most: number): number | undefined {
  return value === undefined || value < least || value > most ? undefined : value;
}
