import * as z from 'zod';
import { formatSampleRate } from '../../units/format';
import { isUnknown } from '../facts';
import { assessCheck, assessChoice, notAssessed, requirement } from './requirement';

export const channels = requirement({
  key: 'channels',
  isMovedByGain: false,
  isOfFormat: true,
  fields: { channels: z.array(z.int().min(1).max(24)).nonempty().optional() },
  form: {
    title: 'File',
    controls: [{ kind: 'text', name: 'channels', label: 'Channels, such as 1, 2' }],
    show: ({ channels: accepted }) => ({ channels: accepted }),
    read: (values) => ({ channels: values.numbers('channels') }),
  },
  describe: ({ channels: accepted }) => [{ name: 'Channels', value: (accepted ?? []).join(' or ') }],
  assess({ channels: accepted }, facts) {
    return accepted ? [assessChoice({ key: 'channels', name: 'Channels' }, facts.channels, 'channels', accepted)] : [];
  },
});

export const layouts = requirement({
  key: 'layouts',
  isMovedByGain: false,
  isOfFormat: true,
  fields: {
    /** Names of channel layouts, such as `5.1`. */
    layouts: z.array(z.string().max(40)).nonempty().optional(),
  },
  form: {
    title: 'File',
    controls: [{ kind: 'text', name: 'layouts', label: 'Layouts, such as 5.1' }],
    show: ({ layouts: accepted }) => ({ layouts: accepted }),
    read: (values) => ({ layouts: values.texts('layouts') }),
  },
  describe: ({ layouts: accepted }) => [{ name: 'Layout', value: (accepted ?? []).join(' or ') }],
  assess({ layouts: accepted }, { layout }) {
    if (!accepted) return [];
    const named = { key: 'layouts', name: 'Layout', required: accepted.join(' or ') };
    return [
      isUnknown(layout) ? notAssessed(named, layout.unknown) : assessCheck(named, layout, accepted.includes(layout)),
    ];
  },
});

export const sampleRate = requirement({
  key: 'sample-rate',
  isMovedByGain: false,
  isOfFormat: true,
  fields: { sampleRatesHz: z.array(z.int().min(8000).max(384_000)).nonempty().optional() },
  form: {
    title: 'File',
    controls: [{ kind: 'text', name: 'rates', label: 'Sample rates in Hz' }],
    show: ({ sampleRatesHz }) => ({ rates: sampleRatesHz }),
    read: (values) => ({ sampleRatesHz: values.numbers('rates') }),
  },
  describe: ({ sampleRatesHz: accepted }) => [
    { name: 'Sample rate', value: (accepted ?? []).map(formatSampleRate).join(' or ') },
  ],
  assess({ sampleRatesHz: accepted }, { sampleRateHz }) {
    return accepted ? [assessChoice({ key: 'sample-rate', name: 'Sample rate' }, sampleRateHz, 'Hz', accepted)] : [];
  },
});

export const bitDepth = requirement({
  key: 'bit-depth',
  isMovedByGain: false,
  isOfFormat: true,
  fields: { bitDepths: z.array(z.int().min(8).max(64)).nonempty().optional() },
  form: {
    title: 'File',
    controls: [{ kind: 'text', name: 'depths', label: 'Bit depths' }],
    show: ({ bitDepths }) => ({ depths: bitDepths }),
    read: (values) => ({ bitDepths: values.numbers('depths') }),
  },
  describe: ({ bitDepths: accepted }) => [
    { name: 'Bit depth', value: (accepted ?? []).map((bits) => (bits === 32 ? '32 (float)' : `${bits}`)).join(' or ') },
  ],
  assess({ bitDepths: accepted }, { bitDepth: bits }) {
    if (!accepted) return [];
    const named = { key: 'bit-depth', name: 'Bit depth' };
    const required = accepted.map((own) => `${own} bit`).join(' or ');
    if (isUnknown(bits)) return [notAssessed({ ...named, required }, bits.unknown)];
    if (bits === null) return [assessCheck({ ...named, required }, 'none: it is lossy', false)];
    return [assessChoice(named, bits, 'bit', accepted)];
  },
});
