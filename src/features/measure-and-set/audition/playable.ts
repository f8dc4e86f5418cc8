import { channelLayout } from '@/core/loudness/channel-layout';
import { resampledFrames } from '@/core/treatment/steps/resample';
import { timelineOf } from '@/core/treatment/timeline';
import { treatedChannels } from '@/core/treatment/treated-channels';
import { fadesOf, gainOnly, preparationOf, type Treatment } from '@/core/treatment/treatment';
import { fetchArrays, programmeAddress, type SourceKey } from '@/features/common/use-trace';
import type { AudioFormat } from '@/formats/audio-format';
import { MOST_PREVIEW_SECONDS, type PreviewCodecId } from '@/formats/preview-codecs';
import type { PassView } from '@/server/outboard/passes';
import type { Playable } from '@/workers/browser/audition-player';
import type { ReductionStretch } from '@/workers/protocol';

/** Encoding a minute takes a second or two. */
const LOSSY_TIMEOUT_MS = 60_000;

/** What is needed of a programme to hear a treatment of it. */
export interface Listened {
  source: SourceKey;
  format: AudioFormat;
  layoutId: string | null;
}

/**
 * A treatment of a programme as something to be heard at a rate.
 *
 * @param offsetDb that it is turned down by, to be compared with another
 */
export function playableOf(
  { source, format, layoutId }: Listened,
  treatment: Treatment,
  heardRateHz: number,
  offsetDb: number,
): Playable {
  const resampleHz = heardRateHz === format.sampleRateHz ? null : heardRateHz;
  const heard: Treatment = { ...treatment, resampleHz };
  const preparation = JSON.stringify(preparationOf(heard));
  const { keptStart, keptEnd, ratio } = timelineOf(heard, format);
  const paddingStart = heard.paddingStart?.frames ?? 0;
  const body = resampledFrames(keptEnd - keptStart, format.sampleRateHz, heardRateHz);
  const channels = treatedChannels(heard, format.channels);
  const layout = channelLayout(channels, channels === format.channels ? format.channelMask : 0, layoutId ?? undefined);
  const { gainDb, outputGainDb, limit } = heard;
  const limited = JSON.stringify({ ...heard, outputGainDb: 0, fadeIn: null, fadeOut: null, dither: null });
  return {
    version: {
      feedId: `frames ${preparation}`,
      reductionId: limit && `reduction ${limited}`,
      gainDb,
      outputGainDb,
      offsetDb,
      fades: fadesOf(heard),
      frames: paddingStart + body + (heard.paddingEnd?.frames ?? 0),
      weights: layout.channels.map(({ weight }) => weight),
      startFrame: Math.round(keptStart * ratio) - paddingStart,
    },
    fetchFrames: async ({ startFrame, frames }, signal) => {
      const asked = { preparation, startFrame, frames };
      const { arrays } = await fetchArrays(programmeAddress(source, 'frames', asked), signal);
      return { startFrame, channels: Object.values(arrays) as Float32Array[] };
    },
    fetchReduction: limit
      ? async ({ startFrame, frames }, signal) => {
          const asked = { treatment: limited, startFrame, frames };
          const address = programmeAddress(source, 'reduction', asked);
          const { meta, arrays } = await fetchArrays<Omit<ReductionStretch, 'reductions'>>(address, signal);
          return { ...meta, reductions: Object.values(arrays) as Float32Array[] };
        }
      : null,
  };
}

/** What came back of outboard gear, in the place of what was sent. */
export function passPlayable(
  listened: Listened,
  sent: Treatment,
  { programmeId, sha256, format, layoutId }: NonNullable<PassView['returned']>,
  heardRateHz: number,
  offsetDb: number,
): Playable {
  const source = { programmeId, sha256, layout: format.layout };
  const returned = playableOf({ source, format, layoutId }, gainOnly(0), heardRateHz, offsetDb);
  const { startFrame } = playableOf(listened, sent, heardRateHz, 0).version;
  // Frames are the same under every name: those of the pass are its own.
  const feedId = `pass ${sha256} ${returned.version.feedId}`;
  return { ...returned, version: { ...returned.version, feedId, startFrame } };
}

/** A span of a treatment as a codec leaves it: fetched whole, once. */
export function lossyPlayable(
  listened: Listened,
  treatment: Treatment,
  { codec, span }: { codec: PreviewCodecId; span: { startFrame: number; endFrame: number } },
  heardRateHz: number,
  offsetDb: number,
): Playable {
  const { source, format } = listened;
  const ratio = heardRateHz / format.sampleRateHz;
  const frames = Math.min(span.endFrame - span.startFrame, MOST_PREVIEW_SECONDS * format.sampleRateHz);
  const asked = { treatment: JSON.stringify(treatment), codec, startFrame: span.startFrame, frames };
  const address = programmeAddress(source, 'lossy', asked);
  let whole: Promise<Float32Array[]> | undefined;
  const { version } = playableOf(listened, treatment, heardRateHz, offsetDb);
  return {
    version: {
      feedId: `lossy ${address}`,
      reductionId: null,
      gainDb: 0,
      outputGainDb: 0,
      fades: {},
      offsetDb,
      frames: Math.max(1, Math.round(frames * ratio)),
      weights: version.weights,
      startFrame: Math.round(span.startFrame * ratio),
    },
    fetchFrames: async ({ startFrame, frames: count }) => {
      // Not given up with one request: every part is of the same whole.
      whole ??= fetchArrays(address, AbortSignal.timeout(LOSSY_TIMEOUT_MS)).then(
        ({ arrays }) => Object.values(arrays) as Float32Array[],
      );
      whole.catch(() => {
        whole = undefined;
      });
      return { startFrame, channels: (await whole).map((samples) => samples.slice(startFrame, startFrame + count)) };
    },
    fetchReduction: null,
  };
}
