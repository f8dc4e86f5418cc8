import { AppError } from '../errors/app-error';
import type { Spec } from './spec';

const published = (document: string) => ({ kind: 'published', document: `${document} (from memory)` }) as const;
const commonPractice = (document: string) =>
  ({ kind: 'common-practice', document: `${document}: common practice, no source` }) as const;

const integrated = (target: number, tolerance: number) =>
  ({ measure: 'integrated', target, toleranceBelow: tolerance, toleranceAbove: tolerance }) as const;
const truePeak = (ceiling: number, allowanceDb = 0) => ({ measure: 'true', ceiling, allowanceDb }) as const;
const samplePeak = (ceiling: number) => ({ measure: 'sample', ceiling, allowanceDb: 0 }) as const;

const CATALOGUE = [
  {
    id: 'ebu-r128',
    name: 'EBU R 128',
    basis: published('EBU R 128 (2020)'),
    // ±0.2 LU is the measurement's own tolerance; ±0.5 LU is accepted where exactness is not practicable.
    loudness: integrated(-23, 0.5),
    peak: truePeak(-1),
    notJudged: [],
  },
  {
    id: 'ebu-r128-short',
    name: 'EBU R 128 s1, short form',
    basis: published('EBU R 128 s1'),
    loudness: integrated(-23, 0.5),
    maxShortTermLufs: -18,
    peak: truePeak(-1),
    durationSeconds: { least: null, most: 120 },
    notJudged: [],
  },
  {
    id: 'atsc-a85',
    name: 'ATSC A/85',
    basis: published('ATSC A/85'),
    loudness: integrated(-24, 2),
    peak: truePeak(-2),
    notJudged: [],
  },
  {
    id: 'arib-tr-b32',
    name: 'ARIB TR-B32',
    basis: published('ARIB TR-B32'),
    loudness: integrated(-24, 1),
    peak: truePeak(-1),
    notJudged: [],
  },
  {
    id: 'op-59',
    name: 'Free TV OP-59',
    basis: published('Free TV Australia OP-59'),
    loudness: integrated(-24, 1),
    peak: truePeak(-2),
    notJudged: [],
  },
  {
    id: 'radio-europe',
    name: 'Radio, Europe',
    basis: commonPractice('Radio in Europe'),
    loudness: integrated(-23, 0.5),
    peak: truePeak(-1),
    notJudged: [],
  },
  {
    id: 'radio-us',
    name: 'Radio, United States',
    basis: commonPractice('Radio in the United States'),
    loudness: integrated(-24, 2),
    peak: truePeak(-2),
    notJudged: [],
  },
  {
    id: 'podcast-stereo',
    name: 'Podcast, stereo −16',
    basis: commonPractice('Podcasts'),
    loudness: integrated(-16, 1),
    peak: truePeak(-1),
    channels: [2],
    notJudged: [],
  },
  {
    id: 'podcast-mono',
    name: 'Podcast, mono −19',
    basis: commonPractice('Podcasts'),
    loudness: integrated(-19, 1),
    peak: truePeak(-1),
    channels: [1],
    notJudged: [],
  },
  {
    id: 'streaming-music',
    name: 'Music streaming −14',
    basis: commonPractice('Music streaming'),
    loudness: integrated(-14, 1),
    peak: truePeak(-1),
    notJudged: [],
  },
  {
    id: 'streaming-video',
    name: 'Video streaming −14',
    basis: commonPractice('Video streaming'),
    loudness: integrated(-14, 1),
    peak: truePeak(-1),
    notJudged: [],
  },
  {
    id: 'aes-td1008-speech',
    name: 'AES TD1008, speech',
    basis: published('AES TD1008 (2021)'),
    loudness: integrated(-18, 1),
    peak: truePeak(-1),
    notJudged: [],
  },
  {
    id: 'aes-td1008-music',
    name: 'AES TD1008, music',
    basis: published('AES TD1008 (2021)'),
    loudness: integrated(-16, 1),
    peak: truePeak(-1),
    notJudged: ['within an album, the loudest track at −14 LUFS instead'],
  },
  {
    id: 'audiobook-retail',
    name: 'Audiobook retail',
    basis: commonPractice('Audiobook retail'),
    // The window is −23…−18 dB RMS; its middle is what a gain aims at.
    loudness: { measure: 'rms', target: -20.5, toleranceBelow: 2.5, toleranceAbove: 2.5 },
    peak: samplePeak(-3),
    maxNoiseFloorDbfs: -60,
    channels: [1, 2],
    head: { least: 0.5, most: 1 },
    tail: { least: 1, most: 5 },
    needsRoomTone: true,
    files: ['mp3'],
    bitRate: { leastKbps: 192, modes: ['constant'] },
    notJudged: [],
  },
  {
    id: 'cd-master',
    name: 'CD master',
    basis: commonPractice('CD'),
    peak: truePeak(-0.3),
    channels: [2],
    sampleRatesHz: [44100],
    bitDepths: [16],
    files: ['wav', 'bw64', 'aiff', 'flac'],
    notJudged: ['dithered once, at the very end'],
  },
  {
    id: 'premaster',
    name: 'Premaster, 6 dB free',
    basis: commonPractice('Premaster for a mastering engineer'),
    // "Around −6": a little over is fine, lower is safe.
    peak: truePeak(-6, 0.5),
    bitDepths: [24, 32],
    files: ['wav', 'bw64'],
    isPremaster: true,
    notJudged: ['no limiter and no clipper in the mix itself'],
  },
  {
    id: 'archive',
    name: 'Archive',
    basis: commonPractice('Archives of sound'),
    // As it is, and no sample of it lost.
    peak: { measure: 'sample', ceiling: 0, allowanceDb: 0 },
    bitDepths: [24, 32],
    files: ['wav', 'bw64', 'flac'],
    tags: ['title'],
    notJudged: [],
  },
] as const satisfies readonly Omit<Spec, 'version'>[];

/** The built-in delivery numbers. Ids are stable: scripts and deliveries refer to them. */
export const SPECS: readonly Spec[] = CATALOGUE.map((spec: Omit<Spec, 'version'>) => ({ ...spec, version: 1 }));

export type SpecId = (typeof CATALOGUE)[number]['id'];

export const DEFAULT_SPEC_ID: SpecId = 'ebu-r128';

/** The spec with this id. Throws `unknown-spec` with the ids that there are. */
export function specById(specId: string): Spec {
  const spec = SPECS.find(({ id }) => id === specId);
  if (!spec) throw new AppError('unknown-spec', { specId, known: SPECS.map(({ id }) => id) });
  return spec;
}
