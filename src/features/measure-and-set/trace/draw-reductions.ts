import { toTreatedFrame } from '@/core/treatment/timeline';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Colours } from '@/features/common/colours';
import type { ReductionStretch } from '@/workers/protocol';
import type { Area, Picture } from './picture';
import { MOST_REDUCTION_DB } from './scales';
import { frameAt } from './view';

/** What the limiter takes, hanging from the top. */
export function drawReductions(area: Area, picture: Picture, colours: Colours): void {
  const { reductionsDb, fineReduction, timeline, sampleRateHz } = picture;
  const { context, view, width, height } = area;
  context.clearRect(0, 0, width, height);
  context.fillStyle = colours.paper;
  context.fillRect(0, 0, width, height);
  if (!reductionsDb) return;
  const framesPerBin = sampleRateHz / BINS_PER_SECOND;
  const binAt = (x: number) => (frameAt(view, width, x) - timeline.startFrame) / framesPerBin;
  context.fillStyle = colours['breach-line'];
  for (let x = 0; x < width; x++) {
    let greatest = 0;
    const last = Math.min(reductionsDb.length, Math.max(Math.floor(binAt(x)) + 1, Math.floor(binAt(x + 1))));
    for (let bin = Math.max(0, Math.floor(binAt(x))); bin < last; bin++) {
      greatest = Math.max(greatest, reductionsDb[bin] ?? 0);
    }
    const fine =
      fineReduction &&
      greatestWithin(
        fineReduction,
        [x, x + 1].map((edge) => toTreatedFrame(timeline, frameAt(view, width, edge))),
      );
    greatest = fine ?? greatest;
    if (greatest > 0)
      context.fillRect(x, 0, 1, Math.max(1, (Math.min(greatest, MOST_REDUCTION_DB) / MOST_REDUCTION_DB) * height));
  }
}

/** The most that a gain reduction curve takes of any channel between two frames; null where it does not reach. */
function greatestWithin({ reductions, startFrame, nodeFrames }: ReductionStretch, edges: number[]): number | null {
  const [from, to] = edges.map((frame) => (frame - startFrame) / nodeFrames) as [number, number];
  const length = reductions[0]?.length ?? 0;
  if (from < 0 || from >= length - 1) return null;
  let greatest = 0;
  for (const own of reductions) {
    for (let node = Math.floor(from); node <= Math.min(length - 1, Math.ceil(to)); node++) {
      greatest = Math.max(greatest, own[node] ?? 0);
    }
  }
  return greatest;
}
