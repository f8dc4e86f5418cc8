'use client';

import { PADDING_KINDS, type Padding } from '@/core/treatment/steps/padding';
import { formatTime } from '@/core/units/format';
import { Button } from '@/ui/button';
import { Segments } from '@/ui/segments';
import { SecondsField } from './fields';
import { paddingMessages as messages } from './messages';
import { definePanel, secondsText } from './panel';

export const paddingPanel = definePanel({
  name: messages.padding,
  steps: ['paddingStart', 'paddingEnd'],
  state: ({ treatment: { paddingStart, paddingEnd }, format, rateHz, span, onCommit }) => {
    const shared = { sampleRateHz: rateHz, sourceRateHz: format.sampleRateHz, span };
    return {
      isOn: paddingStart !== null || paddingEnd !== null,
      summary:
        [
          paddingStart && messages.atStart(secondsText(paddingStart.frames, rateHz)),
          paddingEnd && messages.atEnd(secondsText(paddingEnd.frames, rateHz)),
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
            label={messages.start}
            padding={paddingStart}
            {...shared}
            onChange={(next) => onCommit({ paddingStart: next })}
          />
          <PaddingEditor
            label={messages.end}
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
          label={messages.kindOf(label)}
          value={kind}
          options={PADDING_KINDS.map((value) => ({
            value,
            label: value === 'silence' ? messages.silence : messages.roomTone,
          }))}
          onChange={(value) => onChange({ ...padding, kind: value })}
        />
      ) : null}
      {padding?.kind === 'room-tone' ? (
        <p className="flex flex-wrap items-center gap-2 text-xs text-mute">
          {padding.toneStartFrame === undefined
            ? messages.automaticTone
            : messages.halfASecondFrom(formatTime(padding.toneStartFrame / sourceRateHz, { milliseconds: true }))}
          {span ? (
            <Button kind="inline" onClick={() => onChange({ ...padding, toneStartFrame: span.startFrame })}>
              {messages.useTheSpan}
            </Button>
          ) : null}
          {padding.toneStartFrame === undefined ? null : (
            <Button kind="inline" onClick={() => onChange({ frames: padding.frames, kind: padding.kind })}>
              {messages.automatic}
            </Button>
          )}
        </p>
      ) : null}
    </div>
  );
}
