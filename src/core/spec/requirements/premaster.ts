import * as z from 'zod';
import { formatSampleRate } from '../../units/format';
import type { Assessment } from '../assessment';
import { isUnknown, type Making } from '../facts';
import { assessCheck, notAssessed, requirement } from './requirement';

/** What is asked of a premaster's making (common practice, no source). */
const PARTS: readonly {
  name: string;
  required: (making: Making) => string;
  assess(named: Named, making: Making): Assessment;
}[] = [
  {
    name: 'Limiter',
    required: () => 'none',
    assess: (named, { isLimited }) => assessCheck(named, isLimited ? 'on' : 'none', !isLimited),
  },
  {
    name: 'Dither',
    required: () => 'none',
    assess: (named, { isDithered }) =>
      isUnknown(isDithered)
        ? notAssessed(named, isDithered.unknown)
        : assessCheck(named, isDithered ? 'on' : 'none', !isDithered),
  },
  {
    name: 'Rate of the source',
    required: ({ source }) => formatSampleRate(source.sampleRateHz),
    assess: (named, { sampleRateHz, source }) =>
      assessCheck(named, formatSampleRate(sampleRateHz), sampleRateHz === source.sampleRateHz),
  },
  {
    name: 'Depth of the source',
    required: ({ source: { bitDepth, sampleFormat } }) => depthText(bitDepth ?? 32, sampleFormat === 'float'),
    assess: (named, { bitDepth, source }) => {
      if (isUnknown(bitDepth)) return notAssessed(named, bitDepth.unknown);
      const sourceBits = source.bitDepth ?? 32;
      const isRaised = source.sampleFormat !== 'float' && (bitDepth ?? 0) > Math.max(sourceBits, 16) && sourceBits < 24;
      const required = isRaised ? `${named.required}: more bits hold no more of it` : named.required;
      return assessCheck({ ...named, required }, depthText(bitDepth ?? 0, bitDepth === 32), !isRaised);
    },
  },
  {
    name: 'Tail',
    required: () => 'whole',
    assess: (named, { isTailWhole }) => assessCheck(named, isTailWhole ? 'whole' : 'cut or faded', isTailWhole),
  },
];

type Named = Pick<Assessment, 'key' | 'name' | 'required'>;

export const premaster = requirement({
  key: 'premaster',
  isMovedByGain: false,
  fields: {
    /** No limiter, no dither, the rate and depth of the source, and all of its tail. */
    isPremaster: z.boolean().optional(),
  },
  form: {
    title: 'Premaster',
    controls: [
      {
        kind: 'ticks',
        name: 'premaster',
        label: '',
        options: [['yes', 'no limiter, no dither, rate and depth of the source, whole tail']],
      },
    ],
    show: ({ isPremaster }) => ({ premaster: isPremaster ? ['yes'] : [] }),
    read: (values) => ({ isPremaster: values.ticked('premaster') ? true : undefined }),
  },
  describe: ({ isPremaster }) => [
    {
      name: 'A premaster',
      value: isPremaster ? 'no limiter, no dither, rate and depth of the source, tail whole' : '',
    },
  ],
  assess({ isPremaster }, { making }) {
    if (!isPremaster) return [];
    if (isUnknown(making)) {
      const named = {
        key: 'premaster',
        name: 'Limiter, dither, rate, depth and tail',
        required: 'as the source has them',
      };
      return [notAssessed(named, making.unknown)];
    }
    return PARTS.map(({ name, required, assess }) =>
      assess({ key: `premaster-${name}`, name, required: required(making) }, making),
    );
  },
});

function depthText(bits: number, isFloat: boolean): string {
  return isFloat ? `${bits}-bit float` : `${bits}-bit`;
}
