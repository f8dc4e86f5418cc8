import * as z from 'zod';
import type { DeliveryDepth } from '../file-formats/file-format';
import { FILE_FORMATS, FILE_KINDS, type FileKind, isLossy, RATE_MODES } from '../file-formats/file-formats';
import {
  type ChannelLayout,
  channelLayout,
  type LayoutId,
  layoutNamed,
  writtenOrder,
} from '../loudness/channel-layout';
import { readingOldNames } from '../schema/old-names';
import { ditherSchema } from '../treatment/steps/dither';
import { formatSampleRate } from '../units/format';
import { formatMessages as messages } from './messages';

/** All channels in one file, each in one of its own, or their sum. */
export const ARRANGEMENTS = ['interleaved', 'split', 'mono'] as const;
export type Arrangement = (typeof ARRANGEMENTS)[number];

const DEPTHS = [16, 24, 32] as const satisfies readonly DeliveryDepth[];

/** What kind of file a delivery is. What is left out is as usual for the kind, or as the programme is. */
const deliveryFormatFields = z.object({
  kind: z.enum(FILE_KINDS),
  arrangement: z.enum(ARRANGEMENTS).default('interleaved'),
  /** Null for the rate that the programme has. */
  sampleRateHz: z.int().min(8000).max(384_000).nullable().default(null),
  /** 32 is float; null where the kind is lossy, or for its usual one. */
  bitDepth: z.literal(DEPTHS).nullable().default(null),
  mode: z.enum(RATE_MODES).nullable().default(null),
  bitRateKbps: z.int().min(8).max(1024).nullable().default(null),
  /** Null for triangular where bits are dropped to 16, and none else. */
  dither: ditherSchema.nullable().default(null),
  /** Dither falls silent in digital silence. */
  isDitherSilenced: z.boolean().default(true),
  /** Players are told by how much to turn it, from what is measured of the file; where the kind has a place for that. */
  hasLoudnessTags: z.boolean().default(false),
  /** The source's own file, every sample as it is: nothing but its tags is written. Its kind is the source's. */
  isPassthrough: z.boolean().default(false),
  /** The source's audio definition (ADM) is left out, where it can't go on. */
  withoutAdm: z.boolean().default(false),
});
const OLD_FIELD_NAMES = { isKept: 'isPassthrough' } as const;

export const deliveryFormatSchema = readingOldNames(deliveryFormatFields, OLD_FIELD_NAMES);
export type DeliveryFormat = z.infer<typeof deliveryFormatFields>;
export type DeliveryFormatInput = z.input<typeof deliveryFormatFields>;

/** A format with nothing left open; its depth is null where it is lossy. */
const resolvedFormatFields = deliveryFormatFields.extend({
  sampleRateHz: z.int().min(8000).max(384_000),
  channels: z.int().min(1).max(24),
});
export const resolvedFormatSchema = readingOldNames(resolvedFormatFields, OLD_FIELD_NAMES);
export type ResolvedFormat = z.infer<typeof resolvedFormatFields>;

/** Something that a format can't be, and the nearest that it can. */
export interface FormatProblem {
  /** A sentence. */
  text: string;
  nearest: DeliveryFormat;
  /** Such as "at 48 kHz". */
  nearestText: string;
}

/** What a format is held against: a programme as its treatment leaves it. */
export interface Programme {
  channels: number;
  sampleRateHz: number;
  /** Name of its channel layout; the usual one for so many channels where it is not stated. */
  layout?: string | undefined;
  /** The source has an audio definition, and what its treatment does to what that speaks of. */
  adm?: { isMixed: boolean; isMoved: boolean } | undefined;
}

/** What a format comes to for a programme; whether that can be is asked of `formatProblems`. */
export function resolveFormat(
  format: DeliveryFormat,
  { channels, sampleRateHz }: Pick<Programme, 'channels' | 'sampleRateHz'>,
): ResolvedFormat {
  const { kind } = format;
  const facts = FILE_FORMATS[kind];
  const mode = facts.modes.length === 0 || format.isPassthrough ? null : (format.mode ?? facts.modes[0] ?? null);
  return {
    ...format,
    hasLoudnessTags: format.hasLoudnessTags && facts.loudnessTags !== null,
    sampleRateHz: format.sampleRateHz ?? sampleRateHz,
    bitDepth: isLossy(kind) ? null : (format.bitDepth ?? facts.depths[0] ?? null),
    mode,
    bitRateKbps: mode === null ? null : (format.bitRateKbps ?? nearestOf(rates(kind, mode), facts.defaultKbps ?? 192)),
    channels: format.arrangement === 'mono' ? 1 : channels,
  };
}

/** All that keeps a format from being written for a programme, each with the nearest that can be. */
export function formatProblems(format: DeliveryFormat, programme: Programme): FormatProblem[] {
  const { kind } = format;
  if (format.isPassthrough) return [];
  const facts = FILE_FORMATS[kind];
  const { name } = facts;
  const resolved = resolveFormat(format, programme);
  const { sampleRateHz, channels, mode, bitRateKbps, bitDepth } = resolved;
  const problems: FormatProblem[] = [];
  const offer = (text: string, change: Partial<DeliveryFormat>, nearestText: string) =>
    problems.push({ text, nearest: { ...format, ...change }, nearestText });

  if (format.arrangement === 'mono' && programme.channels > 2) {
    offer(messages.monoSumNeedsTwo(programme.channels), { arrangement: 'interleaved' }, messages.allChannelsInOneFile);
  } else if (format.arrangement === 'split' && isLossy(kind)) {
    offer(messages.notSplit(name), { arrangement: 'interleaved' }, messages.allChannelsInOneFile);
  } else if (format.arrangement !== 'split' && channels > facts.mostChannels) {
    const most = facts.mostChannels;
    offer(
      messages.tooManyChannels(name, most === 2 ? messages.oneOrTwoChannels : messages.upToChannels(most), channels),
      most === 2 && channels > 2 ? { kind: 'flac', mode: null, bitRateKbps: null, bitDepth: null } : { kind: 'wav' },
      most === 2 && channels <= 8 ? messages.flacHoldsEight : messages.wavHoldsAll,
    );
  } else if (channels > 2 && facts.layouts && !isPassthrough(facts.layouts, programme)) {
    const { name: layout } = layoutOf(programme);
    offer(
      messages.layoutNotWritten(name, layout),
      { kind: 'flac', mode: null, bitRateKbps: null, bitDepth: null },
      messages.flacKeepsEveryChannel,
    );
  }
  const lost = format.withoutAdm ? null : lostAdm(format, programme);
  if (lost !== null) {
    const text = messages.losesAdm(lost);
    offer(text, { withoutAdm: true }, messages.withoutAdm);
  }
  if (facts.ratesHz && !facts.ratesHz.includes(sampleRateHz)) {
    const nearest = nearestRate(facts.ratesHz, sampleRateHz);
    offer(
      messages.rateNotWritten(name, formatSampleRate(sampleRateHz)),
      { sampleRateHz: nearest },
      `at ${formatSampleRate(nearest)}`,
    );
  }
  if (bitDepth !== null && !facts.depths.includes(bitDepth)) {
    offer(messages.noFloats(name), { bitDepth: 24 }, '24 bit');
  }
  if (format.bitDepth !== null && isLossy(kind)) {
    offer(messages.noDepth(name), { bitDepth: null }, messages.withoutADepth);
  }
  if (format.mode !== null && !facts.modes.includes(format.mode)) {
    const nearest = facts.modes[0] ?? null;
    const known = facts.modes.length === 0 ? messages.noBitRate : messages.bitRateModes(facts.modes.join(' or '));
    offer(
      `${name} ${known}, not at ${format.mode} rate.`,
      { mode: nearest },
      nearest ? messages.atBitRateMode(nearest) : messages.asItIs,
    );
  } else if (mode !== null && bitRateKbps !== null) {
    const known = rates(kind, mode);
    const limits = facts.bitRateLimits?.(channels, sampleRateHz) ?? { least: 0, most: Number.POSITIVE_INFINITY };
    const allowed = known.filter((kbps) => kbps >= limits.least && kbps <= limits.most);
    if (allowed.length > 0 && !allowed.includes(bitRateKbps)) {
      const nearest = nearestOf(allowed, bitRateKbps);
      const channelText = channels === 1 ? 'mono' : channels === 2 ? 'stereo' : `${channels} channels`;
      offer(
        messages.bitRateNotWritten(name, mode, bitRateKbps, channelText, formatSampleRate(sampleRateHz)),
        { bitRateKbps: nearest },
        messages.withBitRate(nearest),
      );
    }
  }
  return problems;
}

/** Why an audio definition can't go on into a file; null where it can, or there is none. */
function lostAdm({ kind, arrangement }: DeliveryFormat, { adm }: Programme): string | null {
  if (!adm) return null;
  if (!FILE_FORMATS[kind].hasAdm) return messages.noPlaceForAdm(FILE_FORMATS[kind].name);
  if (arrangement !== 'interleaved') return messages.admIsOfOneFile;
  if (adm.isMixed) return messages.admChannelsMixed;
  return adm.isMoved ? messages.admTimesMoved : null;
}

/** The layout that its channels are written in. */
function layoutOf({ channels, layout }: Programme): ChannelLayout {
  const own = layout === undefined ? undefined : layoutNamed(layout);
  const known = own?.channels.length === channels ? own : layout === undefined ? channelLayout(channels) : undefined;
  return known ? writtenOrder(known).layout : { id: null, name: layout ?? '', mask: 0, channels: [] };
}

function isPassthrough(layouts: readonly LayoutId[], programme: Programme): boolean {
  const { id } = layoutOf(programme);
  return id !== null && layouts.includes(id);
}

/** Such as "MP3 192 constant · 44.1 kHz", "WAV 24-bit · 48 kHz · split". */
export function describeFormat(format: ResolvedFormat): string {
  const {
    kind,
    bitDepth,
    mode,
    bitRateKbps,
    sampleRateHz,
    arrangement,
    dither,
    hasLoudnessTags,
    isPassthrough,
    withoutAdm,
  } = format;
  const { name } = FILE_FORMATS[kind];
  const coded = isPassthrough ? messages.asItIsCoded : `${bitRateKbps} ${mode}`;
  const samples = bitDepth === null ? coded : bitDepth === 32 ? '32-bit float' : `${bitDepth}-bit`;
  const ditherText = {
    none: messages.noDither,
    rpdf: messages.rectangularDither,
    tpdf: messages.triangularDither,
    shaped: messages.shapedDither,
  };
  return [
    `${name} ${samples}`,
    formatSampleRate(sampleRateHz),
    arrangement === 'split' && 'split',
    arrangement === 'mono' && 'mono',
    bitDepth !== null && bitDepth < 32 && dither && ditherText[dither],
    hasLoudnessTags && messages.loudnessTags,
    isPassthrough && messages.tagsOnly,
    withoutAdm && 'without ADM',
  ]
    .filter((part) => typeof part === 'string')
    .join(' · ');
}

/** Bit rates in kbit/s that a kind is written with. */
export function rates(kind: FileKind, mode: (typeof RATE_MODES)[number]): readonly number[] {
  return FILE_FORMATS[kind].bitRatesKbps[mode] ?? [];
}

/** The rate that a kind of file is written at for a programme of this one: the same, where that can be. */
export function possibleRate(kind: FileKind, sampleRateHz: number): number {
  const { ratesHz } = FILE_FORMATS[kind];
  return !ratesHz || ratesHz.includes(sampleRateHz) ? sampleRateHz : nearestRate(ratesHz, sampleRateHz);
}

/** The least rate that loses nothing, or else the greatest there is. */
function nearestRate(ratesHz: readonly number[], sampleRateHz: number): number {
  const higher = ratesHz.filter((rate) => rate >= sampleRateHz);
  return higher.length > 0 ? Math.min(...higher) : Math.max(...ratesHz);
}

function nearestOf(values: readonly number[], wanted: number): number {
  return values.reduce(
    (best, value) => (Math.abs(value - wanted) < Math.abs(best - wanted) ? value : best),
    values[0] ?? wanted,
  );
}
