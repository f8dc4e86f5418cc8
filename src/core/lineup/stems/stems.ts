import { deliveredTreatment, treatedProgramme } from '../../delivery/compose';
import { type DeliveryFormat, formatProblems, type ResolvedFormat, resolveFormat } from '../../delivery/format';
import { AppError } from '../../errors/app-error';
import { isLossy } from '../../file-formats/file-formats';
import type { ToneCandidate } from '../../treatment/room-tone';
import type { Treatment } from '../../treatment/treatment';
import { formatSampleRate, formatTime } from '../../units/format';
import { stemMessages as messages } from './messages';
import { isMixName } from './mix-name';

/** What a file has to have in common with its mix. */
export interface StemFormat {
  sampleRateHz: number;
  channels: number;
  /** Null where a lossy codec keeps no samples of any depth. */
  bitDepth: number | null;
  frames: number;
}

/** How a stem's file differs from that of its mix. */
export interface StemDifference {
  kind: 'rate' | 'channels' | 'depth' | 'length';
  text: string;
  /** They cannot be compared. */
  isBlocking: boolean;
}

/** Which of some names is that of the mix, by a word or as what all begin with; -1 where none or several may be. */
export function mixAmong(names: readonly string[]): number {
  const likely = indicesOf(names, isMixName);
  if (likely.length > 0) return likely.length === 1 ? (likely[0] as number) : -1;
  const stems = indicesOf(names, (name) => names.every((other) => other.toLowerCase().startsWith(name.toLowerCase())));
  return stems.length === 1 && names.length > 1 ? (stems[0] as number) : -1;
}

function indicesOf(names: readonly string[], is: (name: string) => boolean): number[] {
  return names.flatMap((name, i) => (is(name) ? [i] : []));
}

/** How the file of a stem differs from that of its mix; nothing where it is alike. */
export function stemDifferences(mix: StemFormat, stem: StemFormat): StemDifference[] {
  const differences: StemDifference[] = [];
  const differ = (kind: StemDifference['kind'], isBlocking: boolean, own: string, its: string) => {
    if (own !== its) differences.push({ kind, text: messages.differs(own, its), isBlocking });
  };
  differ('rate', true, formatSampleRate(stem.sampleRateHz), formatSampleRate(mix.sampleRateHz));
  differ('channels', true, messages.channels(stem.channels), messages.channels(mix.channels));
  differ('depth', false, messages.depth(stem.bitDepth), messages.depth(mix.bitDepth));
  if (stem.frames !== mix.frames && stem.sampleRateHz === mix.sampleRateHz) {
    const time = (frames: number) => formatTime(frames / mix.sampleRateHz, { milliseconds: true });
    differences.push({
      kind: 'length',
      text: messages.length(time(stem.frames), stem.frames - mix.frames),
      isBlocking: false,
    });
  }
  return differences;
}

/** What stems and their mix are to be written as. */
export interface StemsPlan {
  format: ResolvedFormat;
  /** Of the mix, at the rate that is written; that of the stems as well. */
  treatment: Treatment;
}

/**
 * Brings a mix, and with it its stems, to one format.
 *
 * @throws AppError `format-impossible`, also of a lossy format: what is lost of each would not add up
 */
export function planStems(
  treatment: Treatment,
  source: { channels: number; sampleRateHz: number; layout?: string | undefined },
  asked: DeliveryFormat,
): StemsPlan {
  if (isLossy(asked.kind))
    throw new AppError('format-impossible', { problem: messages.lossy, nearest: messages.lossless });
  const programme = treatedProgramme(treatment, source, { isPassthrough: false });
  const wanted: DeliveryFormat = { ...asked, arrangement: 'interleaved', isPassthrough: false, withoutAdm: false };
  const [problem] = formatProblems(wanted, programme);
  if (problem) throw new AppError('format-impossible', { problem: problem.text, nearest: problem.nearestText });
  const format = resolveFormat(wanted, programme);
  return { format, treatment: deliveredTreatment(treatment, format, source.sampleRateHz) };
}

/** A treatment whose room tone stands where it was found in the mix: stems add up only if theirs stands there too. */
export function withToneAt(treatment: Treatment, { startFrame }: ToneCandidate): Treatment {
  const at = <T extends Treatment['paddingStart']>(padding: T): T =>
    padding?.kind === 'room-tone' ? { ...padding, toneStartFrame: startFrame } : padding;
  return { ...treatment, paddingStart: at(treatment.paddingStart), paddingEnd: at(treatment.paddingEnd) };
}

/** RMS of 100 ms of what written stems may leave of their master, in dBFS: dither of each lies below it. */
export function writtenToleranceDb({ bitDepth }: ResolvedFormat): number {
  return bitDepth === 16 ? -80 : -120;
}
