/** The line that every file we write carries in its `bext` history, and how it is known again: EBU R 98, from memory. */
import { formatGain, formatLevel } from '@/core/units/format';

const MARK = 'T=Opsimeter; ';

interface Written {
  sampleRateHz: number;
  bitDepth: number;
  channels: number;
  gainDb: number;
  /** Of the limiter; null where there was none. */
  ceilingDbtp?: number | null;
}

/** Such as `A=PCM,F=48000,W=24,M=stereo,T=Opsimeter; gain +4.6 dB`, in ASCII. */
export function historyLine({ sampleRateHz, bitDepth, channels, gainDb, ceilingDbtp }: Written): string {
  const mode = channels === 1 ? 'mono' : channels === 2 ? 'stereo' : `${channels} channels`;
  const limiter = ceilingDbtp == null ? '' : ` limiter ${formatLevel(ceilingDbtp, 'dBTP')}`;
  const steps = `gain ${formatGain(gainDb)}${limiter}`.replaceAll('\u2212', '-');
  return `A=PCM,F=${sampleRateHz},W=${bitDepth},M=${mode},${MARK}${steps}`;
}

/** What we have done to a file already, in words, or null where its history names no such step. */
export function treatedBefore(history: readonly string[]): string | null {
  const steps = history.flatMap((line) => {
    const [, step] = line.split(MARK);
    return step ? [step.replaceAll(' -', ' \u2212')] : [];
  });
  return steps.length > 0 ? steps.join(', then ') : null;
}
