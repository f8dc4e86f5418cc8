import type { Readings } from '@/core/loudness/readings';
import { specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatNumber } from '@/core/units/format';
import { BareSlide } from '@/features/common/rule/bare-slide';
import { placeLabels, type RuleLabel, type RuleScale, toX } from '@/features/common/rule/rule-geometry';
import { LABELS_Y, LANE_HEIGHT, MARKS_Y, SLIDE_TOP } from '@/features/common/rule/rule-size';
import { classNames } from '@/ui/class-names';
import { slideMessages as messages } from './messages';

/** The programme, on the part that moves. */
export function Slide({
  spec,
  source,
  treated,
  gainDb,
  scale,
  zeroDb,
  isBare,
}: {
  spec: Spec;
  source: Readings;
  treated: Readings;
  gainDb: number;
  scale: RuleScale;
  /** What is called 0. */
  zeroDb: number;
  /** Without the programme's marks: something else is shown on it. */
  isBare: boolean;
}) {
  return (
    <g>
      <BareSlide scale={scale} gainDb={gainDb} zeroDb={zeroDb} />
      {isBare ? null : <Marks spec={spec} source={source} treated={treated} scale={scale} />}
    </g>
  );
}

/** Where the programme stands, as it was calculated. */
function Marks({
  spec,
  source,
  treated,
  scale,
}: {
  spec: Spec;
  source: Readings;
  treated: Readings;
  scale: RuleScale;
}) {
  const limit = spec.peak.ceiling + spec.peak.allowanceDb;
  const peak = specPeak(treated, spec);
  const isOver = peak !== null && peak > limit + 0.001;
  const at = (db: number) => toX(scale, db);
  const { loudnessRangeLowLufs: low, loudnessRangeHighLufs: high } = treated;
  return (
    <>
      {low !== null && high !== null ? (
        <rect
          x={at(low)}
          y={MARKS_Y - 4}
          width={Math.max(3, at(high) - at(low))}
          height="8"
          rx="3"
          className="fill-slide-2"
        />
      ) : null}
      {isOver ? (
        <rect
          x={at(limit)}
          y={SLIDE_TOP}
          width={at(peak) - at(limit)}
          height={LABELS_Y - SLIDE_TOP - 12}
          fill="url(#rule-hatch-slide)"
        />
      ) : null}
      {treated.maxShortTermLufs !== null ? (
        <circle cx={at(treated.maxShortTermLufs)} cy={MARKS_Y} r="4.5" className="fill-slide-ink" />
      ) : null}
      {treated.maxMomentaryLufs !== null ? (
        <circle
          cx={at(treated.maxMomentaryLufs)}
          cy={MARKS_Y}
          r="4.5"
          className="fill-slide-1 stroke-slide-ink"
          strokeWidth="2"
        />
      ) : null}
      {peak !== null ? (
        <rect
          x={at(peak) - 1.5}
          y={SLIDE_TOP}
          width="3"
          height={LABELS_Y - SLIDE_TOP - 10}
          className={isOver ? 'fill-breach-line' : 'fill-slide-ink'}
        />
      ) : null}
      {placeLabels(slideLabels(treated, spec, scale, isOver), scale.width).map((label) => (
        <text
          key={label.key}
          x={label.x}
          y={LABELS_Y + label.lane * LANE_HEIGHT}
          textAnchor={label.anchor}
          className={classNames(
            'text-xs font-semibold',
            label.isBreach ? 'fill-breach' : label.key === 'loudness' ? 'fill-ink' : 'fill-slide-ink',
          )}
        >
          {label.text}
        </text>
      ))}
      {source.samplePeakDbfs === null ? (
        <text x="10" y={MARKS_Y + 4} className="fill-mute text-xs">
          {messages.silence}
        </text>
      ) : null}
    </>
  );
}

function slideLabels(treated: Readings, spec: Spec, scale: RuleScale, isOver: boolean): RuleLabel[] {
  const labels: RuleLabel[] = [];
  const add = (key: string, db: number | null, text: (db: number) => string, isBreach = false) => {
    if (db !== null) labels.push({ key, x: toX(scale, db), text: text(db), isBreach });
  };
  const isRms = spec.loudness?.measure === 'rms';
  add(
    'loudness',
    isRms ? treated.rmsDbfs : treated.integratedLufs,
    (db) => `${isRms ? 'RMS' : 'integrated'} ${formatNumber(db)}`,
  );
  add('range', treated.loudnessRangeLowLufs, () => `range ${formatLevel(treated.loudnessRangeLu, 'LU')}`);
  add('short', treated.maxShortTermLufs, (db) => `short ${formatNumber(db)}`);
  add('mom', treated.maxMomentaryLufs, (db) => `mom. ${formatNumber(db)}`);
  const limit = spec.peak.ceiling + spec.peak.allowanceDb;
  add(
    'peak',
    specPeak(treated, spec),
    (db) => (isOver ? messages.peakOver(formatNumber(db), formatNumber(db - limit)) : `peak ${formatNumber(db)}`),
    isOver,
  );
  return labels;
}
