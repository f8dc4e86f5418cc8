'use client';

import { PADDING_KINDS, type Padding } from '@/core/treatment/steps/padding';
import { formatTime } from '@/core/units/format';
import { Button } from '@/ui/button';
import { Segments } from '@/ui/segments';
import { SecondsField } from './fields';
import { definePanel, secondsText } from './panel';

export const paddingPanel = definePanel({
  name: 'Padding',
  steps: ['paddingStart', 'paddingEnd'],
  state: ({ treatment: { paddingStart, paddingEnd }, format, rateHz, span, onCommit }) => {
    const shared = { sampleRateHz: rateHz, sourceRateHz: format.sampleRateHz, span };
    return {
      isOn: paddingStart !== null || paddingEnd !== null,
      summary:
        [
          paddingStart && `${secondsText(paddingStart.frames, rateHz)} at start`,
          paddingEnd && `${secondsText(paddingEnd.frames, rateHz)} at end`,
        ]
          .filter(Boolean)
          .join(', ') || 'none',
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
          <PaddingEditor
            label="Start"
            padding={paddingStart}
            {...shared}
            onChange={(next) => onCommit({ paddingStart: next })}
          />
          <PaddingEditor
            label="End"
            padding={paddingEnd}
            {...shared}
            onChange={(next) => onCommit({ paddingEnd: next })}
          />
        </>
      ),
    };
  },
});

function PaddingEditor({
  label,
  padding,
  sampleRateHz,
  sourceRateHz,
  span,
  onChange,
}: {
  label: string;
  padding: Padding | null;
  sampleRateHz: number;
  /** In whose frames a place of the source is counted. */
  sourceRateHz: number;
  span: { startFrame: number } | null;
  onChange: (padding: Padding | null) => void;
}) {
  const kind = padding?.kind ?? 'silence';
  return (
    <div className="flex flex-col gap-1.5">
      <SecondsField
        label={label}
        frames={padding?.frames ?? 0}
        sampleRateHz={sampleRateHz}
        onCommit={(frames) => onChange(frames > 0 ? { ...padding, frames, kind } : null)}
      />
      {padding ? (
        <Segments
          label={`${label} is`}
          value={kind}
          options={PADDING_KINDS.map((value) => ({ value, label: value === 'silence' ? 'Silence' : 'Room tone' }))}
          onChange={(value) => onChange({ ...padding, kind: value })}
        />
      ) : null}
      {padding?.kind === 'room-tone' ? (
        <p className="flex flex-wrap items-center gap-2 text-xs text-mute">
          {padding.toneStartFrame === undefined
            ? 'automatic: the quietest even half-second'
            : `half a second from ${formatTime(padding.toneStartFrame / sourceRateHz, { milliseconds: true })}`}
          {span ? (
            <Button kind="inline" onClick={() => onChange({ ...padding, toneStartFrame: span.startFrame })}>
              Use the span
            </Button>
          ) : null}
          {padding.toneStartFrame === undefined ? null : (
            <Button kind="inline" onClick={() => onChange({ frames: padding.frames, kind: padding.kind })}>
              Automatic
            </Button>
          )}
        </p>
      ) : null}
    </div>
  );
}
