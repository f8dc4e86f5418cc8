'use client';

import { DITHERS, type Dither } from '@/core/treatment/steps/dither';
import { Segments } from '@/ui/segments';
import { ditherMessages as messages } from './messages';
import { definePanel } from './panel';

export const ditherPanel = definePanel({
  name: messages.dither,
  steps: ['dither'],
  state: ({ treatment: { dither }, onCommit }) => ({
    isOn: dither !== null,
    summary: dither === null ? 'automatic' : DITHER_LABELS[dither],
    onToggle: (isOn) => onCommit({ dither: isOn ? 'tpdf' : null }),
    editor: <DitherEditor dither={dither} onChange={(next) => onCommit({ dither: next })} />,
  }),
});

const DITHER_LABELS: Readonly<Record<Dither | 'by-depth', string>> = {
  'by-depth': messages.automatic,
  none: messages.none,
  rpdf: messages.rectangular,
  tpdf: messages.triangular,
  shaped: messages.shaped,
};

function DitherEditor({ dither, onChange }: { dither: Dither | null; onChange: (dither: Dither | null) => void }) {
  return (
    <>
      <Segments
        label={messages.dither}
        value={dither ?? 'by-depth'}
        options={(['by-depth', ...DITHERS] as const).map((value) => ({ value, label: DITHER_LABELS[value] }))}
        onChange={(value) => onChange(value === 'by-depth' ? null : value)}
      />
      <p className="max-w-72 text-xs text-mute">{messages.whatAutomaticDoes}</p>
    </>
  );
}
