import { useMemo } from 'react';
import type { HeardTransition } from './queries';

const WIDTH = 600;
const HEIGHT = 84;
const MIDDLE = HEIGHT / 2;
/** So much reduction reaches from the top to the bottom. */
const SHOWN_DB = 12;

/** The waveform of a transition, where the one ends and the other begins, and above it what limiters take. */
export function TransitionPicture({
  transition,
  label,
  playedSeconds,
}: {
  transition: HeardTransition | undefined;
  label: string;
  playedSeconds: number | null;
}) {
  const outline = useMemo(() => (transition ? outlineOf(transition.channels) : ''), [transition]);
  const frames = transition?.channels[0]?.length ?? 1;
  const x = (frame: number) => (frame / frames) * WIDTH;
  const played = playedSeconds === null || !transition ? null : x(playedSeconds * transition.sampleRateHz);
  const edges = transition ? [transition.endFrame, transition.startFrame].map(x) : [];
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="block h-20 w-full"
      preserveAspectRatio="none"
      role="img"
      aria-label={label}
    >
      <path d={outline} className="fill-stock-2 stroke-stock-3" vectorEffect="non-scaling-stroke" />
      {transition ? <Reduction transition={transition} frames={frames} /> : null}
      {edges.map((at, i) => (
        <line
          // biome-ignore lint/suspicious/noArrayIndexKey: there are always these two.
          key={i}
          x1={at}
          x2={at}
          y1={0}
          y2={HEIGHT}
          className="stroke-ink"
          strokeDasharray="3 3"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      {played === null ? null : (
        <line
          x1={played}
          x2={played}
          y1={0}
          y2={HEIGHT}
          className="stroke-slide-ink"
          strokeWidth={2}
          vectorEffect="non-scaling-stroke"
        />
      )}
    </svg>
  );
}

/** From the top down: what is taken of each programme where it is heard. */
function Reduction({ transition, frames }: { transition: HeardTransition; frames: number }) {
  const { reductionDb, endFrame, startFrame } = transition;
  const line = (values: Float32Array, from: number, to: number) =>
    Array.from(values, (db, i) => {
      const at = ((from + ((to - from) * i) / Math.max(1, values.length - 1)) / frames) * WIDTH;
      return `${i === 0 ? 'M' : 'L'}${at.toFixed(1)} ${((Math.min(db, SHOWN_DB) / SHOWN_DB) * HEIGHT + 1).toFixed(1)}`;
    }).join(' ');
  return (
    <>
      <path
        d={line(reductionDb[0], 0, endFrame)}
        className="fill-none stroke-breach-line"
        vectorEffect="non-scaling-stroke"
      />
      <path
        d={line(reductionDb[1], startFrame, frames)}
        className="fill-none stroke-breach-line"
        vectorEffect="non-scaling-stroke"
      />
    </>
  );
}

/** The greatest and least sample of all channels in every column, as one outline. */
function outlineOf(channels: readonly Float32Array[]): string {
  const frames = channels[0]?.length ?? 0;
  const top: string[] = [];
  const bottom: string[] = [];
  for (let column = 0; column < WIDTH; column++) {
    let [least, most] = [0, 0];
    const [from, to] = [column, column + 1].map((own) => Math.floor((own * frames) / WIDTH)) as [number, number];
    for (const samples of channels) {
      for (let n = from; n < to; n++) {
        const value = samples[n] as number;
        if (value > most) most = value;
        else if (value < least) least = value;
      }
    }
    top.push(`${column} ${(MIDDLE - MIDDLE * Math.min(1, most)).toFixed(1)}`);
    bottom.unshift(`${column} ${(MIDDLE - MIDDLE * Math.max(-1, least)).toFixed(1)}`);
  }
  return `M${[...top, ...bottom].join('L')}Z`;
}
