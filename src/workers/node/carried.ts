import { timelineOf, toTreatedFrame } from '@/core/treatment/timeline';
import type { Treatment } from '@/core/treatment/treatment';
import type { Marker, Metadata } from '@/formats/metadata';

/** What a written file takes over of what its source says of time. */
export interface Carried {
  markers: Marker[];
  /** Null where the source states none. */
  timeReferenceFrames: number | null;
}

/**
 * Markers and time reference of a source, where its treatment has moved them to: those of what was cut off are left out, and
 * spans end with what is kept.
 *
 * @param frames of the source
 * @param writtenFrames of the treated programme
 */
export function carriedOver(
  { markers, timeReferenceFrames }: Pick<Metadata, 'markers' | 'timeReferenceFrames'>,
  treatment: Treatment,
  source: { frames: number; sampleRateHz: number },
  writtenFrames: number,
): Carried {
  const timeline = timelineOf(treatment, source);
  const place = (frame: number) => Math.round(toTreatedFrame(timeline, frame));
  return {
    markers: markers
      .filter(({ frame }) => frame >= timeline.keptStart && frame < timeline.keptEnd)
      .map(({ frame, lengthFrames, label }) => {
        const at = place(frame);
        const end = place(Math.min(timeline.keptEnd, frame + lengthFrames));
        return { frame: at, lengthFrames: Math.max(0, Math.min(writtenFrames, end) - at), label };
      })
      .filter(({ frame }) => frame < writtenFrames),
    timeReferenceFrames:
      timeReferenceFrames === null
        ? null
        : Math.max(0, Math.round((timeReferenceFrames + timeline.startFrame) * timeline.ratio)),
  };
}
