'use client';

import { DITHERS, type Dither } from '@/core/treatment/steps/dither';
import { Segments } from '@/ui/segments';
import { definePanel } from './panel';

export const ditherPanel = definePanel({
  name: 'Dither',
  steps: ['dither'],
  state: ({ treatment: { dither }, onCommit }) => ({
    isOn: dither !== null,
    summary: dither === null ? 'automatic' : DITHER_LABELS[dither],
    onToggle: (isOn) => onCommit({ dither: isOn ? 'tpdf' : null }),
    editor: <DitherEditor dither={dither} onChange={(next) => onCommit({ dither: next })} />,
  }),
});

const DITHER_LABELS: Readonly<Record<Dither | 'by-depth', string>> = {
  'by-depth': 'Automatic',
  none: 'None',
  rpdf: 'Rectangular',
  tpdf: 'Triangular',
  shaped: 'Shaped',
};

function DitherEditor({ dither, onChange }: { dither: Dither | null; onChange: (dither: Dither | null) => void }) {
  return (
    <>
      <Segments
        label="Dither"
        value={dither ?? 'by-depth'}
        options={(['by-depth', ...DITHERS] as const).map((value) => ({ value, label: DITHER_LABELS[value] }))}
        onChange={(value) => onChange(value === 'by-depth' ? null : value)}
      />
      <p className="max-w-72 text-xs text-mute">
        Automatic adds triangular dither to 16-bit files, and none to others. Dither comes last, and once.
      </p>
    </>
  );
}
