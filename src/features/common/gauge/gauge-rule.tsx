'use client';

import { useMemo } from 'react';
import type { Spec } from '@/core/spec/spec';
import { Hatch } from '../hatch';
import { BareSlide } from '../rule/bare-slide';
import { HEIGHT } from '../rule/rule-size';
import { ScaleNumbers } from '../rule/scale';
import { Stock } from '../rule/stock';
import { useSize } from '../use-size';
import { GaugeCanvas, type GaugeSource } from './gauge-canvas';
import { liveScale } from './live-scale';
import { gaugeMessages as messages } from './messages';

const MOST_ZOOM = 2;

/** The gauge by itself, of sound that nobody treats: a spec above, what is read below. It is as large as there is room. */
export function GaugeRule({
  source,
  spec,
  channelLabels,
}: {
  source: GaugeSource;
  spec: Spec;
  channelLabels: readonly string[];
}) {
  const [frame, { width, height }] = useSize<HTMLDivElement>();
  const zoom = Math.min(MOST_ZOOM, Math.max(1, height / HEIGHT));
  const inner = Math.floor(width / zoom);
  const scale = useMemo(() => liveScale(spec, inner), [spec, inner]);
  return (
    <div ref={frame} className="relative w-full grow" style={{ minHeight: HEIGHT }}>
      {width > 0 ? (
        <>
          <svg
            width={inner * zoom}
            height={HEIGHT * zoom}
            viewBox={`0 0 ${inner} ${HEIGHT}`}
            className="block select-none"
          >
            <title>{messages.gaugeFor(spec.name)}</title>
            <Hatch id="rule-hatch-stock" className="stroke-breach-line/80" />
            <Stock spec={spec} scale={scale} zeroDb={0} />
            <BareSlide scale={scale} zeroDb={0} />
            <ScaleNumbers scale={scale} zeroDb={0} />
          </svg>
          <GaugeCanvas live={source} spec={spec} scale={scale} zoom={zoom} top={0} channelLabels={channelLabels} />
        </>
      ) : null}
    </div>
  );
}
