'use client';

import { readPowerSpan } from '@/core/loudness/span';
import { type Timeline, toTreatedFrame } from '@/core/treatment/timeline';
import type { Level } from '@/core/units/decibel';
import { formatNumber, formatTime } from '@/core/units/format';
import { PREVIEW_CODECS, type PreviewCodecId } from '@/formats/preview-codecs';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import type { Curve } from './trace/picture';
import type { Span } from './trace/view';
import { TimeField } from './treatment/panels/fields';

/** What is marked on the trace: its edges, its readings after the treatment, and what can be done with it. */
export function SpanBar({
  span,
  frames,
  rateHz,
  timeline,
  treatedRateHz,
  power,
  peakDbtpOf,
  isBusy,
  onChange,
  onPlay,
  onKeep,
  onMarker,
  onHandOver,
  onCodec,
}: {
  span: Span;
  /** Of the source. */
  frames: number;
  rateHz: number;
  timeline: Timeline;
  treatedRateHz: number;
  /** Weighted power of the treated programme, and the gain behind it. */
  power: Curve | null;
  peakDbtpOf: (span: Span) => Level;
  isBusy: boolean;
  onChange: (span: Span | null) => void;
  onPlay: () => void;
  onKeep: () => void;
  onMarker: () => void;
  onHandOver: () => void;
  /** Hears it through a codec. */
  onCodec: (codec: PreviewCodecId) => void;
}) {
  const { startFrame, endFrame } = span;
  const treated = {
    startFrame: Math.max(0, Math.round(toTreatedFrame(timeline, startFrame))),
    endFrame: Math.max(0, Math.round(toTreatedFrame(timeline, endFrame))),
  };
  const reading = power && readPowerSpan(power.values, treatedRateHz, { ...treated, gainDb: power.gainDb });
  const text = (level: Level | undefined) => (level == null ? '◌' : formatNumber(level));
  const peak = peakDbtpOf(span);
  return (
    <fieldset aria-label="Span" className="flex flex-wrap items-center gap-x-1.5 gap-y-1 text-xs">
      <span className="font-semibold">Span</span>
      <TimeField
        isLabelled={false}
        label="Span start"
        frame={startFrame}
        most={endFrame - 1}
        sampleRateHz={rateHz}
        onCommit={(frame) => onChange({ startFrame: frame, endFrame })}
      />
      –
      <TimeField
        isLabelled={false}
        label="Span end"
        frame={endFrame}
        most={frames}
        sampleRateHz={rateHz}
        onCommit={(frame) => frame > startFrame && onChange({ startFrame, endFrame: frame })}
      />
      <span className="font-mono text-mute">
        {formatTime((endFrame - startFrame) / rateHz, { milliseconds: true })}
      </span>
      <output aria-label="Readings of the span" className="font-mono text-[11px]">
        <b>{text(reading?.integratedLufs)}</b> LUFS · S {text(reading?.maxShortTermLufs)} · M{' '}
        {text(reading?.maxMomentaryLufs)} · {text(peak)} dBTP
      </output>
      <span className="ml-auto flex items-center">
        <Button kind="inline" onClick={onPlay}>
          Play
        </Button>
        <Choice
          label="Hear through codec"
          compact
          value=""
          placeholder="codec …"
          options={PREVIEW_CODECS.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(codec) => onCodec(codec as PreviewCodecId)}
        />
        <Button kind="inline" onClick={onKeep}>
          Trim to span
        </Button>
        <Button kind="inline" onClick={onMarker}>
          Marker
        </Button>
        <Button kind="inline" disabled={isBusy} onClick={onHandOver}>
          Deliver this span
        </Button>
        <Button kind="inline" onClick={() => onChange(null)}>
          Clear
        </Button>
      </span>
    </fieldset>
  );
}
