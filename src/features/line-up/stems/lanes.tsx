'use client';

import { useQuery } from '@tanstack/react-query';
import { WAVEFORM_LEVELS, type Waveform } from '@/core/loudness/waveform';
import { NO_PREPARATION } from '@/core/treatment/treatment';
import { formatGain } from '@/core/units/format';
import { Hatch } from '@/features/common/hatch';
import { bundleQuery, fetchArrays, programmeAddress, waveformsOf } from '@/features/common/use-trace';
import type { StemsView } from '@/server/stems/null-test';
import { stemsMessages as messages } from '../messages';
import { LEFT, type Mix, type Test, testedFrames, timeScale, WIDTH } from './picture';

const LANE = 40;
const GAP = 6;
/** As fine as this is drawn finely enough. */
const MOST_BUCKETS = 3000;
/** A title longer than this would reach into its waveform. */
const MOST_CHARACTERS = 23;

/** The mix and its stems along time, under each other, with the places where something is left. */
export function Lanes({
  name,
  mix,
  stems,
  test,
}: {
  name: string;
  mix: Mix;
  stems: StemsView['stems'];
  test: Test | null;
}) {
  const frames = testedFrames(mix, stems, test);
  const x = timeScale(frames);
  const height = (stems.length + 1) * (LANE + GAP);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${height}`}
      className="block w-full"
      role="img"
      aria-label={[messages.lanes(name), ...stems.map((stem, i) => `${stem.title} ${inMix(test, i)}`)].join(', ')}
    >
      <Hatch id="stems-hatch" className="stroke-breach-line" />
      {[mix, ...stems].map((member, i) => (
        <Lane
          key={member.programmeId}
          member={member}
          text={i === 0 ? `${messages.isMix} · ${mix.samplesText}` : inMix(test, i - 1)}
          offsetFrames={i === 0 ? 0 : (test?.offsetFrames[i - 1] ?? 0)}
          isMix={i === 0}
          top={i * (LANE + GAP)}
          x={x}
          end={x(frames)}
        />
      ))}
      {test?.reading.places.map(({ startFrame, endFrame }) => (
        <g key={startFrame}>
          <rect
            x={x(startFrame)}
            width={Math.max(2, x(endFrame) - x(startFrame))}
            y={0}
            height={height - GAP}
            fill="url(#stems-hatch)"
            opacity="0.35"
          />
          {[startFrame, endFrame].map((frame) => (
            <line key={frame} x1={x(frame)} x2={x(frame)} y1={0} y2={height - GAP} className="stroke-breach-line" />
          ))}
        </g>
      ))}
    </svg>
  );
}

function Lane({
  member,
  text,
  offsetFrames,
  isMix,
  top,
  x,
  end,
}: {
  member: Mix;
  text: string;
  offsetFrames: number;
  isMix: boolean;
  top: number;
  x: (frame: number) => number;
  end: number;
}) {
  const { frames, title } = member;
  const level = Math.max(
    0,
    WAVEFORM_LEVELS.findIndex((bucketFrames) => frames / bucketFrames <= MOST_BUCKETS),
  );
  const bucketFrames = WAVEFORM_LEVELS[level] ?? WAVEFORM_LEVELS[0];
  const buckets = Math.ceil(frames / bucketFrames);
  const address = programmeAddress(member, 'waveform', {
    preparation: JSON.stringify(NO_PREPARATION),
    level,
    firstBucket: 0,
    buckets,
  });
  const { data } = useQuery(bundleQuery(address, fetchWaveforms));
  const shown = title.length > MOST_CHARACTERS ? `${title.slice(0, MOST_CHARACTERS - 1)}…` : title;
  return (
    <g>
      <title>{title}</title>
      <rect x={LEFT} width={end - LEFT} y={top} height={LANE} className="fill-stock-1/50" />
      <text x={0} y={top + 17} className="fill-ink text-[13px] font-semibold">
        {shown}
      </text>
      <text x={0} y={top + 32} className="fill-mute font-mono text-[11px]">
        {text}
      </text>
      {data ? (
        <path
          d={outlineOf(data, top + LANE / 2, (bucket) => x(bucket * bucketFrames + offsetFrames))}
          className={isMix ? 'fill-stock-3' : 'fill-slide-2'}
        />
      ) : null}
    </g>
  );
}

async function fetchWaveforms(address: string, signal: AbortSignal): Promise<Waveform[]> {
  const { arrays } = await fetchArrays<object>(address, signal);
  return waveformsOf(arrays, Object.keys(arrays).length / 2);
}

/** The greatest and least sample of all channels along time, around a middle. */
function outlineOf(waveforms: readonly Waveform[], middle: number, x: (bucket: number) => number): string {
  const buckets = waveforms[0]?.min.length ?? 0;
  const at = (bucket: number, of: (waveform: Waveform) => Float32Array, pick: (...values: number[]) => number) => {
    const value = pick(...waveforms.map((waveform) => of(waveform)[bucket] ?? 0));
    return `${x(bucket).toFixed(1)} ${(middle - Math.max(-1, Math.min(1, value)) * (LANE / 2)).toFixed(1)}`;
  };
  const top = Array.from({ length: buckets }, (_, i) => at(i, ({ max }) => max, Math.max));
  const bottom = Array.from({ length: buckets }, (_, i) => at(buckets - 1 - i, ({ min }) => min, Math.min));
  return buckets === 0 ? '' : `M${[...top, ...bottom].join('L')}Z`;
}

/** What a stem is to the mix, as far as that was tested. */
function inMix(test: Test | null, stem: number): string {
  const own = test?.reading.stems[stem];
  if (!own) return '';
  if (own.gainDb === null) return messages.silent;
  const text = messages.inMix(formatGain(own.gainDb), messages.frames(own.delayFrames));
  return own.isInverted ? `${text} · ${messages.inverted}` : text;
}
