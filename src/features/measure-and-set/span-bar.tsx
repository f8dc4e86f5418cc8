'use client';

import { readPowerSpan } from '@/core/loudness/span';
import { type Timeline, toTreatedFrame } from '@/core/treatment/timeline';
import type { Level } from '@/core/units/decibel';
import { formatNumber, formatTime } from '@/core/units/format';
import { type StartTimeCode, timeCodeAt } from '@/core/units/time-code';
import { PREVIEW_CODECS, type PreviewCodecId } from '@/formats/preview-codecs';
import { Button } from '@/ui/button';
import { Choice } from '@/ui/choice';
import { spanBarMessages as messages } from './messages';
import type { Curve } from './trace/picture';
import type { Span } from './trace/view';
import { TimeField } from './treatment/panels/fields';

/** What is marked on the trace: its edges, its readings after the treatment, and what can be done with it. */
export function SpanBar({
  span,
  frames,
  rateHz,
  timeCode,
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
  /** Null where the file states none. */
  timeCode: StartTimeCode | null;
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
    <fieldset aria-label={messages.span} className="flex flex-wrap items-center gap-x-1.5 gap-y-1 text-xs">
      <span className="font-semibold">{messages.span}</span>
      <TimeField
        isLabelled={false}
        label={messages.spanStart}
        frame={startFrame}
        most={endFrame - 1}
        sampleRateHz={rateHz}
        timeCode={timeCode}
        onCommit={(frame) => onChange({ startFrame: frame, endFrame })}
      />
      –
      <TimeField
        isLabelled={false}
        label={messages.spanEnd}
        frame={endFrame}
        most={frames}
        sampleRateHz={rateHz}
        timeCode={timeCode}
        onCommit={(frame) => frame > startFrame && onChange({ startFrame, endFrame: frame })}
      />
      <span className="font-mono text-mute">
        {formatTime((endFrame - startFrame) / rateHz, { milliseconds: true })}
      </span>
      {timeCode ? (
        <span className="font-mono text-[11px]">
          {timeCodeAt(timeCode, startFrame, rateHz)} – {timeCodeAt(timeCode, endFrame, rateHz)}
        </span>
      ) : null}
      <output aria-label={messages.readingsOfTheSpan} className="font-mono text-[11px]">
        <b>{text(reading?.integratedLufs)}</b>{' '}
        {messages.spanReadings(text(reading?.maxShortTermLufs), text(reading?.maxMomentaryLufs), text(peak))}
      </output>
      <span className="ml-auto flex items-center">
        <Button kind="inline" onClick={onPlay}>
          {messages.play}
        </Button>
        <Choice
          label={messages.hearThroughCodec}
          compact
          value=""
          placeholder={messages.chooseACodec}
          options={PREVIEW_CODECS.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(codec) => onCodec(codec as PreviewCodecId)}
        />
        <Button kind="inline" onClick={onKeep}>
          {messages.trimToSpan}
        </Button>
        <Button kind="inline" onClick={onMarker}>
          {messages.marker}
        </Button>
        <Button kind="inline" disabled={isBusy} onClick={onHandOver}>
          {messages.deliverThisSpan}
        </Button>
        <Button kind="inline" onClick={() => onChange(null)}>
          {messages.clear}
        </Button>
      </span>
    </fieldset>
  );
}
