'use client';

import { useState } from 'react';
import { roundGain } from '@/core/treatment/gain';
import { DITHERS, type Dither } from '@/core/treatment/steps/dither';
import { FADE_SHAPES, type Fade, type FadeShape } from '@/core/treatment/steps/fade';
import { type Limit, LOOK_AHEADS_MS, RELEASES_MS } from '@/core/treatment/steps/limit';
import type { ChannelMix } from '@/core/treatment/steps/mix-channels';
import { PADDING_KINDS, type Padding } from '@/core/treatment/steps/padding';
import { type Trim, trimmedRange } from '@/core/treatment/steps/trim';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { parseNumber, parseTime } from '@/core/units/parse';
import type { SourceKey, Trace } from '@/features/common/use-trace';
import { Button } from '@/ui/button';
import { Segments } from '@/ui/segments';
import { TypedField } from '@/ui/typed-field';
import type { Span } from '../trace/view';
import { soundRange, zeroCrossing } from './edges';

/** A time in frames, typed as a time or as frames. */
export function TimeField({
  label,
  frame,
  sampleRateHz,
  most,
  isLabelled = true,
  onCommit,
}: {
  label: string;
  frame: number;
  sampleRateHz: number;
  most: number;
  isLabelled?: boolean;
  onCommit: (frame: number) => void;
}) {
  return (
    <TypedField
      label={label}
      isLabelled={isLabelled}
      className={isLabelled ? undefined : 'w-20! px-1!'}
      value={frame}
      format={(value) => formatTime(value / sampleRateHz, { milliseconds: true })}
      parse={(text) => within(parseTime(text, sampleRateHz), 0, most)}
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

function SecondsField({
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

function within(value: number | undefined, least: number, most: number): number | undefined {
  return value === undefined || value < least || value > most ? undefined : value;
}

export function KeepEditor({
  trim,
  span,
  source,
  trace,
  onChange,
}: {
  trim: Trim | null;
  span: Span | null;
  source: SourceKey;
  trace: Trace;
  onChange: (trim: Trim | null) => void;
}) {
  const { frames, sampleRateHz } = trace.meta;
  const [isBusy, setBusy] = useState(false);
  const [problem, setProblem] = useState<string>();
  const { startFrame, endFrame } = trimmedRange(trim, frames);
  const set = (range: Span) => {
    const isAll = range.startFrame <= 0 && range.endFrame >= frames;
    if (range.endFrame - range.startFrame < 1) return;
    onChange(
      isAll ? null : { startFrame: range.startFrame, endFrame: range.endFrame >= frames ? null : range.endFrame },
    );
  };
  const find = async (work: () => Promise<Span | null>) => {
    setBusy(true);
    setProblem(undefined);
    try {
      const found = await work();
      if (found) set(found);
      else setProblem('No sound above −60 dBFS was found: nothing has changed.');
    } catch {
      setProblem('The samples could not be read: nothing has changed.');
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <TimeField
        label="From"
        frame={startFrame}
        sampleRateHz={sampleRateHz}
        most={endFrame - 1}
        onCommit={(frame) => set({ startFrame: frame, endFrame })}
      />
      <TimeField
        label="To"
        frame={endFrame}
        sampleRateHz={sampleRateHz}
        most={frames}
        onCommit={(frame) => set({ startFrame, endFrame: frame })}
      />
      <p className="text-right font-mono text-xs text-mute">
        {formatTime((endFrame - startFrame) / sampleRateHz, { milliseconds: true })} · {endFrame - startFrame} frames
      </p>
      <div className="flex flex-wrap gap-1.5">
        <Button className="py-0.5 text-xs" disabled={!span} onClick={() => span && set(span)}>
          The span
        </Button>
        <Button className="py-0.5 text-xs" disabled={isBusy} onClick={() => void find(() => soundRange(source, trace))}>
          First to last sound
        </Button>
        <Button
          className="py-0.5 text-xs"
          disabled={isBusy}
          onClick={() =>
            void find(async () => ({
              startFrame: startFrame === 0 ? 0 : await zeroCrossing(source, trace, startFrame),
              endFrame: endFrame === frames ? frames : await zeroCrossing(source, trace, endFrame),
            }))
          }
        >
          To zero crossings
        </Button>
      </div>
      {problem ? (
        <p role="alert" className="text-xs text-breach">
          {problem}
        </p>
      ) : null}
    </>
  );
}

const MIX_NAMES: readonly { value: ChannelMix; label: string }[] = [
  { value: 'stereo', label: 'As they are' },
  { value: 'mono-3', label: 'Mono sum' },
  { value: 'swapped', label: 'Swapped' },
  { value: 'left', label: 'Left only' },
  { value: 'right', label: 'Right only' },
  { value: 'invert-left', label: 'Left inverted' },
  { value: 'invert-right', label: 'Right inverted' },
];

const SUM_NAMES: readonly { value: ChannelMix; label: string; detail: string }[] = [
  { value: 'mono-3', label: '−3 dB', detail: 'as loud as before where the channels have nothing in common' },
  { value: 'mono-6', label: '−6 dB', detail: 'the mean: never louder than the louder channel' },
  { value: 'mono-0', label: '0 dB', detail: 'the plain sum: what is alike in both comes out 6 dB louder' },
];

export function ChannelsEditor({ mix, onChange }: { mix: ChannelMix; onChange: (mix: ChannelMix) => void }) {
  const sum = SUM_NAMES.find(({ value }) => value === mix);
  return (
    <>
      <div role="radiogroup" aria-label="Channels" className="grid grid-cols-2 gap-1">
        {MIX_NAMES.map(({ value, label }) => {
          const isChosen = value === mix || (value === 'mono-3' && sum !== undefined);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a button that looks like the others beside it.
            <button
              key={value}
              type="button"
              role="radio"
              aria-checked={isChosen}
              onClick={() => onChange(value)}
              className="cursor-pointer rounded-control border border-hair px-2 py-0.5 text-left text-[13px] hover:border-stock-3 aria-checked:border-slide-2 aria-checked:bg-slide-1"
            >
              {label}
            </button>
          );
        })}
      </div>
      {sum ? (
        <div className="flex flex-col gap-1">
          <p className="text-xs text-mute">By how much is the sum turned down?</p>
          <Segments label="Sum turned down by" value={sum.value} options={SUM_NAMES} onChange={onChange} />
          <p className="max-w-64 text-xs text-mute">{sum.detail}</p>
        </div>
      ) : null}
    </>
  );
}

export function PadEditor({
  label,
  pad,
  sampleRateHz,
  sourceRateHz,
  span,
  onChange,
}: {
  label: string;
  pad: Padding | null;
  sampleRateHz: number;
  /** In whose frames a place of the source is counted. */
  sourceRateHz: number;
  span: { startFrame: number } | null;
  onChange: (pad: Padding | null) => void;
}) {
  const kind = pad?.kind ?? 'silence';
  return (
    <div className="flex flex-col gap-1.5">
      <SecondsField
        label={label}
        frames={pad?.frames ?? 0}
        sampleRateHz={sampleRateHz}
        onCommit={(frames) => onChange(frames > 0 ? { ...pad, frames, kind } : null)}
      />
      {pad ? (
        <Segments
          label={`${label} is`}
          value={kind}
          options={PADDING_KINDS.map((value) => ({ value, label: value === 'silence' ? 'Silence' : 'Room tone' }))}
          onChange={(value) => onChange({ ...pad, kind: value })}
        />
      ) : null}
      {pad?.kind === 'room-tone' ? (
        <p className="flex flex-wrap items-center gap-2 text-xs text-mute">
          {pad.toneStartFrame === undefined
            ? 'found: the quietest even half-second'
            : `half a second from ${formatTime(pad.toneStartFrame / sourceRateHz, { milliseconds: true })}`}
          {span ? (
            <Button kind="inline" onClick={() => onChange({ ...pad, toneStartFrame: span.startFrame })}>
              Take it from the span
            </Button>
          ) : null}
          {pad.toneStartFrame === undefined ? null : (
            <Button kind="inline" onClick={() => onChange({ frames: pad.frames, kind: pad.kind })}>
              Find it
            </Button>
          )}
        </p>
      ) : null}
    </div>
  );
}

const LOOK_AHEAD_STEP_MS = 0.1;

function held(value: number, { least, most }: { least: number; most: number }): number {
  return Math.min(most, Math.max(least, value));
}

export function LimiterEditor({
  limit,
  hasLfe,
  onChange,
}: {
  limit: Limit;
  hasLfe: boolean;
  onChange: (limit: Limit) => void;
}) {
  const { ceilingDbtp, link, lfe, lookAheadMs, releaseMs } = limit;
  const setLookAhead = (value: number) =>
    onChange({ ...limit, lookAheadMs: held(Math.round(100 * value) / 100, LOOK_AHEADS_MS) });
  return (
    <>
      <DbField
        label="Ceiling"
        valueDb={ceilingDbtp}
        least={-12}
        most={0}
        unit="dBTP"
        onCommit={(value) => onChange({ ...limit, ceilingDbtp: value })}
      />
      <TypedField
        label="Link"
        value={link}
        format={(value) => `${Math.round(100 * value)} %`}
        parse={(text) => {
          const percent = within(parseNumber(text, '%'), 0, 100);
          return percent === undefined ? undefined : percent / 100;
        }}
        onCommit={(value) => onChange({ ...limit, link: value })}
        onStep={(steps) => onChange({ ...limit, link: Math.min(1, Math.max(0, Math.round(100 * link + steps) / 100)) })}
      />
      <TypedField
        label="Look-ahead"
        value={lookAheadMs}
        format={(value) => `${value} ms`}
        parse={(text) => within(parseNumber(text, 'ms'), LOOK_AHEADS_MS.least, LOOK_AHEADS_MS.most)}
        onCommit={(value) => setLookAhead(value)}
        onStep={(steps) => setLookAhead(lookAheadMs + LOOK_AHEAD_STEP_MS * steps)}
      />
      <div className="flex items-center justify-between gap-3 text-[13px]">
        Release
        <Segments
          label="Release"
          value={releaseMs === null ? 'programme' : 'set'}
          options={[
            { value: 'programme', label: 'By programme' },
            { value: 'set', label: 'Set' },
          ]}
          onChange={(value) => onChange({ ...limit, releaseMs: value === 'set' ? 100 : null })}
        />
      </div>
      {releaseMs === null ? null : (
        <TypedField
          label="Lets go to 1/e in"
          value={releaseMs}
          format={(value) => `${value} ms`}
          parse={(text) => within(parseNumber(text, 'ms'), RELEASES_MS.least, RELEASES_MS.most)}
          onCommit={(value) => onChange({ ...limit, releaseMs: Math.round(value) })}
          onStep={(steps) => onChange({ ...limit, releaseMs: held(releaseMs + steps, RELEASES_MS) })}
        />
      )}
      {hasLfe ? (
        <div className="flex items-center justify-between gap-3 text-[13px]">
          Low-frequency channel
          <Segments
            label="Low-frequency channel"
            value={lfe}
            options={[
              { value: 'linked', label: 'With the others' },
              { value: 'apart', label: 'By itself' },
            ]}
            onChange={(value) => onChange({ ...limit, lfe: value })}
          />
        </div>
      ) : null}
      <p className="max-w-72 text-xs text-mute">
        Look-ahead is for single peaks: longer is smoother, and costs more loudness. What stays over for longer is seen
        some 80 ms ahead, so that no bass note is turned down cycle by cycle. True peak is held to{' '}
        {formatLevel(ceilingDbtp, 'dBTP')}; what is heard is the trace that will be written.
      </p>
    </>
  );
}

const SHAPE_LABELS: Readonly<Record<FadeShape, string>> = {
  linear: 'Linear',
  'equal-power': 'Equal power',
  's-curve': 'S-curve',
  exponential: 'Exponential',
};

export function FadeEditor({
  label,
  fade,
  sampleRateHz,
  onChange,
}: {
  label: string;
  fade: Fade | null;
  sampleRateHz: number;
  onChange: (fade: Fade | null) => void;
}) {
  const shape = fade?.shape ?? 's-curve';
  return (
    <div className="flex flex-col gap-1.5">
      <SecondsField
        label={label}
        frames={fade?.frames ?? 0}
        sampleRateHz={sampleRateHz}
        onCommit={(frames) => onChange(frames > 0 ? { frames, shape } : null)}
      />
      {fade ? (
        <Segments
          label={`${label} shape`}
          value={shape}
          options={FADE_SHAPES.map((value) => ({ value, label: SHAPE_LABELS[value] }))}
          onChange={(value) => onChange({ ...fade, shape: value })}
        />
      ) : null}
    </div>
  );
}

export const DITHER_LABELS: Readonly<Record<Dither | 'by-depth', string>> = {
  'by-depth': 'By depth',
  none: 'None',
  rpdf: 'Rectangular',
  tpdf: 'Triangular',
  shaped: 'Shaped',
};

export function DitherEditor({
  dither,
  onChange,
}: {
  dither: Dither | null;
  onChange: (dither: Dither | null) => void;
}) {
  return (
    <>
      <Segments
        label="Dither"
        value={dither ?? 'by-depth'}
        options={(['by-depth', ...DITHERS] as const).map((value) => ({ value, label: DITHER_LABELS[value] }))}
        onChange={(value) => onChange(value === 'by-depth' ? null : value)}
      />
      <p className="max-w-72 text-xs text-mute">
        By depth, triangular dither is added where 16 bits are written, and none else. It comes last, and once.
      </p>
    </>
  );
}
