import * as z from 'zod';
import { FILE_FORMATS, FILE_KINDS, type FileKind, RATE_MODES, type RateMode } from '../../file-formats/file-formats';
import { isUnknown } from '../facts';
import { assessCheck, notAssessed, requirement } from './requirement';

export const file = requirement({
  key: 'file',
  isMovedByGain: false,
  isOfFormat: true,
  fields: { files: z.array(z.enum(FILE_KINDS)).nonempty().optional() },
  form: {
    title: 'File formats',
    controls: [
      {
        kind: 'ticks',
        name: 'files',
        label: '',
        options: FILE_KINDS.map((kind) => [kind, FILE_FORMATS[kind].name] as const),
      },
    ],
    show: ({ files }) => ({ files }),
    read: (values) => ({ files: values.ticked<FileKind>('files') }),
  },
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
  isMovedByGain: false,
  isOfFormat: true,
  fields: {
    /** Of a file that is lossy: for each channel or for all of them is not told apart. */
    bitRate: z
      .object({ leastKbps: z.int().positive().nullable(), modes: z.array(z.enum(RATE_MODES)).nonempty() })
      .optional(),
  },
  form: {
    title: 'Bit rate',
    controls: [
      { kind: 'number', name: 'leastKbps', label: 'At least, kbit/s' },
      { kind: 'ticks', name: 'modes', label: '', options: RATE_MODES.map((mode) => [mode, mode] as const) },
    ],
    show: ({ bitRate: asked }) => ({ leastKbps: asked?.leastKbps, modes: asked?.modes }),
    read: (values) => {
      const modes = values.ticked<RateMode>('modes');
      return { bitRate: modes && { leastKbps: values.number('leastKbps') ?? null, modes } };
    },
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
