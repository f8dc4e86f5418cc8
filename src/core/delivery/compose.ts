import { downmixedChannels } from '../treatment/steps/downmix';
import { mixedChannels } from '../treatment/steps/mix-channels';
import { treatedChannels } from '../treatment/treated-channels';
import { gainOnly, rescaledSteps, type Treatment } from '../treatment/treatment';
import type { DeliveryFormat, Programme, ResolvedFormat } from './format';

/** A mono file is the mean of both channels unless the treatment has a sum of its own: it is never louder than the louder. */
const MONO_SUM = 'mono-6';

/**
 * What is done to a programme for a delivery of its own format: its treatment, at the format's rate, with its sum and its
 * dither. Lengths that are counted in frames of what is written keep their time. To a passthrough nothing is done.
 */
export function deliveredTreatment(treatment: Treatment, format: ResolvedFormat, sourceRateHz: number): Treatment {
  if (format.isPassthrough) return { ...gainOnly(0), dither: 'none' };
  const { resampleHz, mix, dither } = treatment;
  const { sampleRateHz, arrangement } = format;
  return {
    ...treatment,
    ...rescaledSteps(treatment, sampleRateHz / (resampleHz ?? sourceRateHz)),
    resampleHz: sampleRateHz === sourceRateHz ? null : sampleRateHz,
    mix: arrangement === 'mono' && mixedChannels(mix) === 2 ? MONO_SUM : mix,
    dither: format.dither ?? dither,
  };
}

/** What a programme is before a delivery's own format: channels and rate as its treatment leaves them, unless it is a passthrough. */
export function treatedProgramme(
  { resampleHz, downmix, mix, trim, paddingStart, paddingEnd }: Treatment,
  source: {
    channels: number;
    sampleRateHz: number;
    layout?: string | undefined;
    adm?: { hasTimes: boolean } | undefined;
  },
  { isPassthrough }: Pick<DeliveryFormat, 'isPassthrough'>,
): Programme {
  const { channels, sampleRateHz, layout } = source;
  if (isPassthrough) return { channels, sampleRateHz, layout };
  const treated = treatedChannels({ downmix, mix }, channels);
  const left = downmixedChannels(downmix, channels);
  return {
    channels: treated,
    sampleRateHz: resampleHz ?? sampleRateHz,
    layout: treated === channels ? layout : undefined,
    adm: source.adm && {
      isMixed: left !== channels || (left === 2 && mix !== 'stereo'),
      isMoved: source.adm.hasTimes && (trim !== null || paddingStart !== null || paddingEnd !== null),
    },
  };
}
