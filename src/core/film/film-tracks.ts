import * as z from 'zod';
import type { DeliveryFormat } from '../delivery/format';
import { FILE_FORMATS } from '../file-formats/file-formats';
import { type FilmCodec, type FilmFormat, fileKindOfCodec, filmCodecFor, filmFormatOfName } from './film-formats';

/** Which sound tracks of which film a programme is. */
export const filmTracksSchema = z.object({
  /** Of the film. */
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
  fileName: z.string().min(1).max(1000),
  /** Counted from 1. Of several, each is a channel of the programme, in this order. */
  tracks: z.array(z.int().positive().max(999)).min(1).max(64),
  /** Of the first of them, as it is stated where formats are: `PCM`, `AAC`. */
  codec: z.string().max(100),
  /** Null of PCM, and where it is not known. */
  bitRateBps: z.number().nonnegative().nullable(),
  /** Their length: what goes back has the same. */
  frames: z.int().nonnegative(),
  sampleRateHz: z.number().positive(),
});
export type FilmTracks = z.infer<typeof filmTracksSchema>;

/** The film that a file is; undefined where its name and its contents are not both those of one. */
export function filmFormatOf(fileName: string, container: string): FilmFormat | undefined {
  const film = filmFormatOfName(fileName);
  return film?.container === container ? film : undefined;
}

/** What tracks go back as: tracks that were put together channel by channel, as PCM; undefined where the film takes none. */
export function codecsFor(film: FilmFormat, { tracks, codec }: Pick<FilmTracks, 'tracks' | 'codec'>): FilmCodec[] {
  if (tracks.length > 1) return film.codecs.filter((own) => own === 'pcm');
  const usual = filmCodecFor(film, codec);
  return [usual, ...film.codecs.filter((own) => own !== usual)];
}

/** The format of a file that goes back into a track: a depth or a bit rate that is stated stays, others are those of the track. */
export function likeTrack(
  asked: DeliveryFormat,
  {
    bitDepth,
    bitRateBps,
    sampleFormat,
    channels,
    sampleRateHz,
  }: {
    bitDepth: number | null;
    bitRateBps: number | null;
    sampleFormat: 'integer' | 'float';
    channels: number;
    sampleRateHz: number;
  },
): DeliveryFormat {
  const { depths, modes, bitRatesKbps, bitRateLimits } = FILE_FORMATS[asked.kind];
  if (depths.length > 0) {
    const like = sampleFormat === 'float' ? 32 : (bitDepth ?? 24) <= 16 ? 16 : 24;
    return { ...asked, bitDepth: asked.bitDepth ?? depths.find((depth) => depth === like) ?? 24 };
  }
  const mode = asked.mode ?? modes[0];
  if (asked.bitRateKbps !== null || bitRateBps === null || mode === undefined) return asked;
  const { least = 0, most = Number.POSITIVE_INFINITY } = bitRateLimits?.(channels, sampleRateHz) ?? {};
  const possible = (bitRatesKbps[mode] ?? []).filter((kbps) => kbps >= least && kbps <= most).toSorted((a, b) => a - b);
  // No bit rate is below that of the track where there is one above.
  return {
    ...asked,
    bitRateKbps: possible.find((kbps) => kbps >= Math.round(bitRateBps / 1000)) ?? possible.at(-1) ?? null,
  };
}

/** The codec that a file of this kind goes in as, among some. */
export function codecOfKind(codecs: readonly FilmCodec[], kind: DeliveryFormat['kind']): FilmCodec | undefined {
  return codecs.find((codec) => fileKindOfCodec(codec) === kind);
}
