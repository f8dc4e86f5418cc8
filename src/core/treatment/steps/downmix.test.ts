import { channelLayout, LAYOUT_IDS, type Loudspeaker, loudspeakersOf } from '../../loudness/channel-layout';
import { treatedChannels } from '../treated-channels';
import { gainOnly, NO_PREPARATION, processFrames } from '../treatment';
import { downmixed, downmixedChannels, monoGain, stereoGains } from './downmix';

const SIX: Loudspeaker[] = ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'];

test('from 3/2 to 2/0 and to 1/0, as ITU-R BS.775 states it in its Annex 4 (from memory)', () => {
  const HANDBOOK = 7071 / 10_000;
  const table: Partial<Record<Loudspeaker, { stereo: [number, number]; mono: number }>> = {
    L: { stereo: [1, 0], mono: HANDBOOK },
    R: { stereo: [0, 1], mono: HANDBOOK },
    C: { stereo: [HANDBOOK, HANDBOOK], mono: 1 },
    Ls: { stereo: [HANDBOOK, 0], mono: 0.5 },
    Rs: { stereo: [0, HANDBOOK], mono: 0.5 },
    LFE: { stereo: [0, 0], mono: 0 },
  };
  for (const [loudspeaker, { stereo, mono }] of Object.entries(table)) {
    const [left, right] = stereoGains(loudspeaker as Loudspeaker);
    expect(left).toBeCloseTo(stereo[0], 4);
    expect(right).toBeCloseTo(stereo[1], 4);
    expect(monoGain(loudspeaker as Loudspeaker)).toBeCloseTo(mono, 4);
  }
});

test('a single surround goes to both sides at −6 dB, as in 3/1 (BS.775, from memory); what is above as a surround', () => {
  expect(stereoGains('Cb').map((gain) => 20 * Math.log10(gain))).toEqual([
    expect.closeTo(-6.02, 2),
    expect.closeTo(-6.02, 2),
  ]);
  expect(stereoGains('Ltf')).toEqual([Math.SQRT1_2, 0]);
  expect(stereoGains('Rbf')).toEqual([0, 1]);
  expect(stereoGains('T')).toEqual(stereoGains('Cb'));
});

test('whatever the layout, left and right mirror each other and nothing gets louder than it is', () => {
  for (const id of LAYOUT_IDS) {
    const from = loudspeakersOf(channelLayout(lengthOf(id), 0, id));
    expect(from).toBeDefined();
    const gains = (from ?? []).map(stereoGains);
    const sum = (side: 0 | 1) => gains.reduce((total, own) => total + own[side], 0);
    expect(sum(0)).toBeCloseTo(sum(1), 12);
    for (const [left, right] of gains) expect(left ** 2 + right ** 2).toBeLessThanOrEqual(1 + 1e-12);
  }
});

function lengthOf(id: (typeof LAYOUT_IDS)[number]): number {
  return Array.from({ length: 24 }, (_, i) => i + 1).find((count) => channelLayout(count, 0, id).id === id) ?? 0;
}

test('samples are summed in double precision, each channel by its own gain', () => {
  const planar = SIX.map((_, channel) => Float32Array.from({ length: 50 }, (_, n) => Math.sin(n * (channel + 1)) / 3));
  const [left, right] = downmixed({ to: 'stereo', from: SIX }, planar);
  const [mono] = downmixed({ to: 'mono', from: SIX }, planar);
  for (let n = 0; n < 50; n++) {
    const [L = 0, R = 0, C = 0, , Ls = 0, Rs = 0] = planar.map((samples) => samples[n] ?? 0);
    expect(left?.[n]).toBe(Math.fround(L + Math.SQRT1_2 * C + Math.SQRT1_2 * Ls));
    expect(right?.[n]).toBe(Math.fround(R + Math.SQRT1_2 * C + Math.SQRT1_2 * Rs));
    expect(mono?.[n]).toBeCloseTo(Math.SQRT1_2 * (L + R) + C + (Ls + Rs) / 2, 6);
  }
});

test('a programme that the downmix is not of stays as it is; one that becomes stereo can be mixed on', () => {
  const downmix = { to: 'stereo' as const, from: SIX };
  const eight = Array.from({ length: 8 }, () => new Float32Array(4));
  expect(processFrames({ ...NO_PREPARATION, downmix }, eight)).toBe(eight);
  expect(downmixedChannels(downmix, 8)).toBe(8);
  expect(downmixedChannels(null, 6)).toBe(6);
  const treatment = gainOnly(0);
  expect(treatedChannels({ ...treatment, downmix }, 6)).toBe(2);
  expect(treatedChannels({ ...treatment, downmix, mix: 'mono-6' }, 6)).toBe(1);
  expect(treatedChannels({ ...treatment, downmix: { ...downmix, to: 'mono' } }, 6)).toBe(1);
  expect(treatedChannels({ ...treatment, mix: 'left' }, 6)).toBe(6);
  const six = SIX.map(() => Float32Array.of(0.1));
  const swapped = processFrames({ ...NO_PREPARATION, downmix, mix: 'left' }, six);
  expect(swapped).toHaveLength(1);
});
