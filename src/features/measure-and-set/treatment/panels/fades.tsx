'use client';

import { FADE_SHAPES, type Fade, type FadeShape } from '@/core/treatment/steps/fade';
import { Segments } from '@/ui/segments';
import { SecondsField } from './fields';
import { fadesMessages as messages } from './messages';
import { definePanel, secondsText } from './panel';

export const fadesPanel = definePanel({
  name: messages.fades,
  steps: ['fadeIn', 'fadeOut'],
  state: ({ treatment: { fadeIn, fadeOut }, rateHz, onCommit }) => {
    const usual = { frames: Math.round(0.5 * rateHz), shape: 's-curve' } as const;
    return {
      isOn: fadeIn !== null || fadeOut !== null,
      summary:
        [fadeIn && `in ${secondsText(fadeIn.frames, rateHz)}`, fadeOut && `out ${secondsText(fadeOut.frames, rateHz)}`]
          .filter(Boolean)
          .join(', ') || 'none',
      onToggle: (isOn) => onCommit(isOn ? { fadeIn: usual, fadeOut: usual } : { fadeIn: null, fadeOut: null }),
      editor: (
        <>
          <FadeEditor
            label={messages.in}
            fade={fadeIn}
            sampleRateHz={rateHz}
            onChange={(next) => onCommit({ fadeIn: next })}
          />
          <FadeEditor
            label={messages.out}
            fade={fadeOut}
            sampleRateHz={rateHz}
            onChange={(next) => onCommit({ fadeOut: next })}
          />
        </>
      ),
    };
  },
});

const SHAPE_LABELS: Readonly<Record<FadeShape, string>> = {
  linear: messages.linear,
  'equal-power': messages.equalPower,
  's-curve': 'S-curve',
  exponential: messages.exponential,
};

function FadeEditor({
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
          label={messages.shapeOf(label)}
          value={shape}
          options={FADE_SHAPES.map((value) => ({ value, label: SHAPE_LABELS[value] }))}
          onChange={(value) => onChange({ ...fade, shape: value })}
        />
      ) : null}
    </div>
  );
}
