import * as z from 'zod';
import { FILE_FORMATS, FILE_KINDS, RATE_MODES } from '../../file-formats/file-formats';
import { isUnknown } from '../facts';
import { assessCheck, notAssessed, requirement } from './requirement';

export const file = requirement({
  key: 'file',
  fields: { files: z.array(z.enum(FILE_KINDS)).nonempty().optional() },
  describe: ({ files }) => [{ name: 'File', value: kindNames(files ?? []) }],
  assess({ files }, { file: own }) {
    if (!files) return [];
    const named = { key: 'file', name: 'File', required: kindNames(files) };
    if (isUnknown(own)) return [notAssessed(named, own.unknown)];
    const { kind, name } = own;
    const found = kind === null ? name : FILE_FORMATS[kind].name;
    return [assessCheck(named, found, kind !== null && files.includes(kind))];
  },
});

function kindNames(files: readonly (typeof FILE_KINDS)[number][]): string {
  return files.map((kind) => FILE_FORMATS[kind].name).join(' or ');
}

export const bitRate = requirement({
  key: 'bit-rate',
  fields: {
    /** Of a file that is lossy: for each channel or for all of them is not told apart. */
    bitRate: z
      .object({ leastKbps: z.int().positive().nullable(), modes: z.array(z.enum(RATE_MODES)).nonempty() })
      .optional(),
  },
  describe: ({ bitRate: asked }) => [{ name: 'Bit rate', value: asked ? describeBitRate(asked) : '' }],
  assess({ bitRate: asked }, { bitRate: own }) {
    if (!asked || own === null) return [];
    const named = { key: 'bit-rate', name: 'Bit rate', required: describeBitRate(asked) };
    if (isUnknown(own)) return [notAssessed(named, own.unknown)];
    const { kbps, mode } = own;
    const isEnough = asked.leastKbps === null || (!isUnknown(kbps) && kbps >= asked.leastKbps);
    const isMode = !isUnknown(mode) && asked.modes.includes(mode);
    const found = [isUnknown(mode) ? '' : mode, isUnknown(kbps) ? '' : `${kbps} kbit/s`].filter(Boolean).join(', ');
    // What is known may settle it: too little is too little at any mode.
    if (!isUnknown(kbps) && !isEnough) return [assessCheck(named, found, false)];
    if (!isUnknown(mode) && !isMode) return [assessCheck(named, found, false)];
    if (isUnknown(mode)) return [notAssessed(named, mode.unknown)];
    if (isUnknown(kbps) && asked.leastKbps !== null) return [notAssessed(named, kbps.unknown)];
    return [assessCheck(named, found, true)];
  },
});

function describeBitRate({ leastKbps, modes }: { leastKbps: number | null; modes: readonly string[] }): string {
  return `${modes.join(' or ')}${leastKbps === null ? '' : `, ${leastKbps} kbit/s or more`}`;
}
