import type { GlanceLevels } from '@/core/loudness/readings';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { peakName, specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatNumber } from '@/core/units/format';
import { Hatch } from './hatch';
import { miniRuleMessages as messages } from './messages';

const LOW_DB = -36;
const HIGH_DB = 4;
const WIDTH = 240;
const EDGE = 4;

const x = (db: number) =>
  EDGE + ((Math.min(HIGH_DB, Math.max(LOW_DB, db)) - LOW_DB) / (HIGH_DB - LOW_DB)) * (WIDTH - 2 * EDGE);

/** The rule at a glance: a programme's loudness and peak (lower) against a spec's window and ceiling (upper). */
export function MiniRule({
  readings,
  spec,
  labelled = false,
}: {
  readings: GlanceLevels;
  spec: Spec;
  labelled?: boolean;
}) {
  const loudness = specLoudness(readings, spec);
  const peak = specPeak(readings, spec);
  const { ceiling, allowanceDb } = spec.peak;
  const isOver = peak !== null && peak > ceiling + allowanceDb + 0.001;
  const words = [
    loudness === null ? messages.loudnessNotMeasured : `loudness ${formatNumber(loudness)}`,
    `${peakName(spec)} ${formatLevel(peak, 'dB')}`,
    spec.loudness ? `target ${formatNumber(spec.loudness.target)}` : messages.noLoudnessTarget,
    `ceiling ${formatNumber(ceiling)}`,
  ];
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${labelled ? 44 : 26}`}
      className="block w-full"
      role="img"
      aria-label={messages.ruleFor(spec.name, words.join(', '))}
    >
      <Hatch id="mini-rule-hatch" className="stroke-breach-line" />
      <rect x="0" y="2" width={WIDTH} height="10" rx="2" className="fill-stock-1" />
      {spec.loudness ? (
        <rect
          x={x(spec.loudness.target - spec.loudness.toleranceBelow)}
          y="2"
          width={Math.max(
            2,
            x(spec.loudness.target + spec.loudness.toleranceAbove) -
              x(spec.loudness.target - spec.loudness.toleranceBelow),
          )}
          height="10"
          className="fill-stock-3"
        />
      ) : null}
      <rect x={x(ceiling)} y="2" width={WIDTH - x(ceiling)} height="10" fill="url(#mini-rule-hatch)" opacity="0.8" />
      <rect x="0" y="14" width={WIDTH} height="10" rx="2" className="fill-slide-1" />
      {loudness !== null && peak !== null ? (
        <line x1={x(loudness)} x2={x(peak)} y1="19" y2="19" className="stroke-slide-2" strokeWidth="1.5" />
      ) : null}
      {loudness !== null ? <path d={`M ${x(loudness)} 14 l 4.5 9 h -9 z`} className="fill-slide-ink" /> : null}
      {peak !== null ? (
        <rect
          x={x(peak) - 1.5}
          y="13"
          width="3"
          height="12"
          className={isOver ? 'fill-breach-line' : 'fill-slide-ink'}
        />
      ) : null}
      <line x1={x(ceiling)} x2={x(ceiling)} y1="0" y2="26" className="stroke-ink" strokeWidth="1.5" />
      {labelled && loudness !== null ? (
        <text x={x(loudness)} y="40" textAnchor="middle" className="fill-slide-ink font-mono text-[11px]">
          {formatNumber(loudness)}
        </text>
      ) : null}
      {labelled && peak !== null ? (
        <text
          x={Math.min(x(peak), WIDTH - 16)}
          y="40"
          textAnchor="middle"
          className={isOver ? 'fill-breach font-mono text-[11px]' : 'fill-slide-ink font-mono text-[11px]'}
        >
          {formatNumber(peak)}
        </text>
      ) : null}
    </svg>
  );
}
