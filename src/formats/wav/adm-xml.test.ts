/** Audio definitions (ADM), read from XML that was written by hand, from XML that is wrong, and changed where they state their loudness. */
import fc from 'fast-check';
import { admOutline } from '@/core/adm/outline';
import { Renderer } from '@/core/adm/renderer';
import { selectItems } from '@/core/adm/select-items';
import { isAppError } from '@/core/errors/app-error';
import { type AdmRecipe, admChunksOf } from '../../../tests/fixtures/adm';
import { admText, chnaEntries } from './adm';
import { withLoudness } from './adm-loudness';
import { readAdmDefinition } from './adm-xml';

const object = (name: string, channel: number, more: object = {}, blocks: object[] = [{}]) => ({
  name,
  tracks: [{ channel, type: 'Objects' as const, blocks }],
  ...more,
});
const RECIPE: AdmRecipe = {
  programmes: [
    { name: 'Main &amp; all', language: 'en', contents: [{ name: 'Everything', objects: [0, 1] }] },
    { name: 'Voice', contents: [{ name: 'Voice', objects: [1] }] },
  ],
  objects: [
    {
      name: 'Bed',
      tracks: ['M+030', 'M-030', 'LFE1'].map((label, i) => ({
        channel: i + 1,
        type: 'DirectSpeakers' as const,
        blocks: [{ label, azimuth: [30, -30, 45][i] as number }],
        ...(label === 'LFE1' ? { lowPassHz: 120 } : {}),
      })),
    },
    object(
      'Voice',
      4,
      {
        attributes: ' start="00:00:01.50000" duration="00:01:00.24000S48000"',
        more: '<gain gainUnit="dB">-6.0206</gain>',
      },
      [
        { rtime: '00:00:00.00000', duration: '00:00:01.00000', azimuth: 10, elevation: -5.5, gain: '<gain>0.5</gain>' },
        {
          rtime: '00:00:01.00000',
          duration: '00:00:01.00000',
          more: '<jumpPosition interpolationLength="0.02">1</jumpPosition>',
        },
      ],
    ),
  ],
};
const read = (recipe: AdmRecipe, axml?: string) => {
  const own = admChunksOf(recipe);
  return readAdmDefinition(axml ?? own.axml, chnaEntries(own.chna, true), 'dome.wav');
};
const refusals = (recipe: AdmRecipe, channels = 4, programmeId: string | null = 'APR_1001') =>
  selectItems(read(recipe).model, programmeId, channels).notRendered.map(({ reason, where }) => `${reason}: ${where}`);

test('everything that a rendering asks for is read', () => {
  const { model } = read(RECIPE);
  expect(model.programmes).toMatchObject([
    { id: 'APR_1001', name: 'Main & all', language: 'en', contentIds: ['ACO_1001'] },
    { id: 'APR_1002', name: 'Voice', language: null, contentIds: ['ACO_1002'] },
  ]);
  const { items, notRendered } = selectItems(model, 'APR_1001', 4);
  expect(notRendered).toEqual([]);
  expect(items.map(({ channel, format }) => [channel, format.type, format.lowPassHz])).toEqual([
    [0, 'DirectSpeakers', null],
    [1, 'DirectSpeakers', null],
    [2, 'DirectSpeakers', 120],
    [3, 'Objects', null],
  ]);
  const voice = items[3];
  expect(voice).toMatchObject({ startSeconds: 1.5, durationSeconds: 60.5 });
  expect(voice?.gain).toBeCloseTo(0.5, 5);
  expect(voice?.format.blocks).toMatchObject([
    {
      startSeconds: 0,
      durationSeconds: 1,
      gain: 0.5,
      azimuth: { value: 10 },
      elevation: { value: -5.5 },
      jumpSeconds: null,
    },
    { startSeconds: 1, gain: 1, jumpSeconds: 0.02 },
  ]);
  expect(selectItems(model, 'APR_1002', 4).items.map(({ channel }) => channel)).toEqual([3]);
});

test('it is shown as a tree', () => {
  expect(admOutline(read(RECIPE).model)).toMatchObject([
    {
      name: 'Main & all',
      children: [
        {
          kind: 'content',
          children: [
            { name: 'Bed', object: { types: ['DirectSpeakers'], channels: [1, 2, 3] } },
            { name: 'Voice', object: { types: ['Objects'], channels: [4], startSeconds: 1.5 } },
          ],
        },
      ],
    },
    { name: 'Voice' },
  ]);
});

test('what is not rendered is told, with where it is asked for', () => {
  const asking = (more: string, own: object = {}) =>
    refusals({
      programmes: RECIPE.programmes.slice(0, 1),
      objects: [...RECIPE.objects.slice(0, 1), object('Comet', 4, own, [{ more }])],
    });
  expect(asking('<width>0</width><diffuse>0.0</diffuse><screenRef>0</screenRef>')).toEqual([]);
  expect(asking('<width>20</width>')).toEqual(['extent: Comet 4']);
  expect(asking('<diffuse>0.5</diffuse>')).toEqual(['diffuse: Comet 4']);
  expect(asking('<cartesian>1</cartesian>')).toEqual(['cartesian: Comet 4']);
  expect(asking('<position coordinate="X">0.5</position>')).toEqual(['cartesian: Comet 4']);
  expect(asking('<objectDivergence azimuthRange="30">0.5</objectDivergence>')).toEqual(['divergence: Comet 4']);
  expect(asking('<channelLock>1</channelLock>')).toEqual(['channel-lock: Comet 4']);
  expect(asking('<zoneExclusion><zone minAzimuth="0"/></zoneExclusion>')).toEqual(['zone-exclusion: Comet 4']);
  expect(asking('<screenRef>1</screenRef>')).toEqual(['screen: Comet 4']);
  expect(asking('<position coordinate="distance">0.5</position>')).toEqual(['near: Comet 4']);
  const timed = (duration: string) =>
    refusals({
      programmes: RECIPE.programmes.slice(0, 1),
      objects: [
        ...RECIPE.objects.slice(0, 1),
        object('Comet', 4, {}, [
          { rtime: '00:00:00.00000', duration, more: '<jumpPosition interpolationLength="0.5">1</jumpPosition>' },
        ]),
      ],
    });
  expect([timed('00:00:00.50000'), timed('00:00:00.40000')]).toEqual([[], ['damaged: Comet 4']]);
  expect(asking('<gain>loud</gain>')).toEqual(['damaged: Comet 4']);
  expect(asking('', { more: '<positionOffset coordinate="azimuth">30</positionOffset>' })).toEqual([
    'position-offset: Comet',
  ]);
  expect(asking('', { attributes: ' start="soon"' })).toEqual(['damaged: Comet']);
  expect(refusals(RECIPE, 3)).toEqual(['missing-channel: Voice']);
  const blocks = [
    { rtime: '00:00:00.00000', duration: '00:00:02.00000' },
    { rtime: '00:00:01.00000', duration: '00:00:01.00000' },
  ];
  const overlapping = {
    programmes: RECIPE.programmes.slice(0, 1),
    objects: [object('A', 1), object('B', 2, {}, blocks)],
  };
  expect(refusals(overlapping)).toEqual(['blocks-overlap: B 2']);
  const { axml } = admChunksOf(RECIPE);
  const select = (text: string) =>
    selectItems(read(RECIPE, text).model, 'APR_1001', 4).notRendered.map(({ reason }) => reason);
  expect(select(axml.replace('typeDefinition="Objects"', 'typeDefinition="HOA"'))).toEqual(['hoa']);
  expect(select(axml.replaceAll('<audioObjectIDRef>AO_1002', '<audioObjectIDRef>AO_2000'))).toEqual(['unknown-object']);
  expect(select(axml.replace('<audioPackFormatIDRef>AP_00031002', '<audioPackFormatIDRef>AP_00039999'))).toEqual([
    'unknown-pack',
  ]);
});

test('an object stands within another, is muted, or is heard only instead of another', () => {
  const within = '<audioObjectIDRef>AO_1002</audioObjectIDRef><gain>0.5</gain>';
  const { model } = read({
    programmes: [{ name: 'P', contents: [{ name: 'C', objects: [0] }] }],
    objects: [object('Group', 1, { more: within }), object('Inner', 2, { more: '<gain>0.5</gain>' })],
  });
  expect(selectItems(model, 'APR_1001', 2).items.map(({ channel, gain }) => [channel, gain])).toEqual([
    [0, 0.5],
    [1, 0.25],
  ]);
  const chosen = read({
    programmes: [{ name: 'P', contents: [{ name: 'C', objects: [0, 1, 2] }] }],
    objects: [
      object('English', 1, { more: '<audioComplementaryObjectIDRef>AO_1002</audioComplementaryObjectIDRef>' }),
      object('French', 2),
      object('Muted', 3, { more: '<mute>1</mute>' }),
    ],
  });
  expect(selectItems(chosen.model, 'APR_1001', 3).items.map(({ channel, gain }) => [channel, gain])).toEqual([
    [0, 1],
    [2, 0],
  ]);
  // In a circle.
  const round = read({
    programmes: [{ name: 'P', contents: [{ name: 'C', objects: [0] }] }],
    objects: [object('A', 1, { more: '<audioObjectIDRef>AO_1001</audioObjectIDRef>' })],
  });
  expect(selectItems(round.model, 'APR_1001', 1).notRendered).toMatchObject([{ reason: 'too-deep' }]);
});

test('a definition that lists the same objects ever again ends, and says so', () => {
  // Fifteen levels, each of which has the next one thirty times: more objects than could ever be visited.
  const objects = Array.from({ length: 15 }, (_, level) =>
    object(`Level ${level}`, 1, {
      more: `<audioObjectIDRef>AO_${(0x1002 + level).toString(16)}</audioObjectIDRef>`.repeat(level < 14 ? 30 : 0),
    }),
  );
  const { model } = read({ programmes: [{ name: 'P', contents: [{ name: 'C', objects: [0] }] }], objects });
  expect(selectItems(model, 'APR_1001', 1).notRendered).toContainEqual(expect.objectContaining({ reason: 'too-deep' }));
  const count = (nodes: ReturnType<typeof admOutline>): number =>
    nodes.reduce((sum, { children }) => sum + 1 + count(children), 0);
  expect(count(admOutline(model))).toBe(5000);
});

test('a file without XML has the channels of the common definitions', () => {
  const lines = ['M+030', 'M-030'].map((_, i) => {
    const line = Buffer.alloc(40);
    line.writeUInt16LE(i + 1, 0);
    line.write(`ATU_0000000${i + 1}AT_0001000${i + 1}_01AP_00010002`, 2, 'latin1');
    return line;
  });
  const head = Buffer.from([2, 0, 2, 0]);
  const { model } = readAdmDefinition(null, chnaEntries(Buffer.concat([head, ...lines]), true), 'bed.wav');
  expect(selectItems(model, null, 2).items.map(({ channel, format }) => [channel, format.name])).toEqual([
    [0, 'M+030'],
    [1, 'M-030'],
  ]);
});

test('loudness is stated anew, and no other character changes', () => {
  const stated = '<loudnessMetadata loudnessMethod="x"><integratedLoudness>-10</integratedLoudness></loudnessMetadata>';
  const recipe = {
    ...RECIPE,
    programmes: RECIPE.programmes.map((own, i) => (i === 0 ? { ...own, more: stated } : own)),
  };
  const { axml } = admChunksOf(recipe);
  const { loudnessPlaces } = read(recipe);
  const loudness = {
    integratedLufs: -23,
    loudnessRangeLu: 5.25,
    truePeakDbtp: -1.5,
    maxMomentaryLufs: -17,
    maxShortTermLufs: null,
  };
  const expected =
    '<loudnessMetadata loudnessMethod="ITU-R BS.1770"><integratedLoudness>-23.00</integratedLoudness><loudnessRange>5.25</loudnessRange><maxTruePeak>-1.50</maxTruePeak><maxMomentary>-17.00</maxMomentary></loudnessMetadata>';
  const changed = withLoudness(axml, loudnessPlaces, ({ element }) =>
    element === 'audioProgramme' ? loudness : undefined,
  );
  expect(changed.split(expected)).toHaveLength(3);
  // Where it was stated, it stands in its place; where it was not, behind the contents.
  const [first, second, third] = changed.split(expected) as [string, string, string];
  expect(first + stated + second + third).toBe(axml);
  expect(second.endsWith('<audioContentIDRef>ACO_1002</audioContentIDRef>')).toBe(true);
  // Taken away again, where nothing is known.
  expect(withLoudness(changed, read(recipe, changed).loudnessPlaces, () => undefined)).toBe(axml.replace(stated, ''));
});

test('bytes that are no UTF-8 stay what they are, and so does what stands behind the text', () => {
  const bytes = Buffer.from([0x3c, 0x61, 0x3e, 0xe4, 0x3c, 0x2f, 0x61, 0x3e, 0, 0, 7]);
  const { text, bytesOf } = admText(bytes);
  expect(text).toBe('<a>ä</a>');
  expect(Buffer.from(bytesOf(text))).toEqual(bytes);
  const marked = Buffer.from('\ufeff<a>ä</a>');
  expect(Buffer.from(admText(marked).bytesOf(admText(marked).text))).toEqual(marked);
});

test('10,000 definitions that were damaged are read, or refused in words', () => {
  const { axml, chna } = admChunksOf(RECIPE);
  const values = [...axml.matchAll(/(?<=>)[^<>\s]+(?=<)|(?<==")[^"]*(?=")/g)];
  const words = [
    'AO_1001',
    'AC_00010001',
    'AP_00010002',
    'APR_1001',
    '-1',
    '1e999',
    'NaN',
    '00:00:00.5S0',
    '99:99:99',
    '',
    '-200',
    'Objects',
    'HOA',
  ];
  const markup = ['<', '>', '"', '&', '\0', '<audioObject>', '<!DOCTYPE a [<!ENTITY b "c">]>', '&b;', '\ud800'];
  const damage = fc.oneof(
    {
      weight: 12,
      arbitrary: fc.record({
        value: fc.nat(values.length - 1),
        put: fc.oneof(fc.constantFrom(...words), fc.stringMatching(/^\w{0,8}$/)),
      }),
    },
    { weight: 1, arbitrary: fc.record({ at: fc.nat(axml.length), cut: fc.nat(40), put: fc.constantFrom(...markup) }) },
  );
  const flip = fc.record({ at: fc.nat(chna.length - 1), to: fc.nat(255) });
  const damaged = (text: string, damages: readonly { value?: number; at?: number; cut?: number; put: string }[]) =>
    damages
      .map(({ value, at, cut = 0, put }) => {
        const found = value === undefined ? undefined : values[value];
        return { at: found?.index ?? at ?? 0, cut: found?.[0].length ?? cut, put };
      })
      .sort((a, b) => b.at - a.at)
      .reduce((own, { at, cut, put }) => own.slice(0, at) + put + own.slice(at + cut), text);
  let refused = 0;
  fc.assert(
    fc.property(
      fc.array(damage, { minLength: 1, maxLength: 4 }),
      fc.array(flip, { maxLength: 4 }),
      fc.option(fc.nat(chna.length), { freq: 10 }),
      (damages, flips, length) => {
        const { text } = admText(Buffer.from(damaged(axml, damages)));
        const lines = Buffer.from(chna);
        for (const { at, to } of flips) lines[at] = to;
        try {
          const definition = readAdmDefinition(
            text,
            chnaEntries(lines.subarray(0, length ?? undefined), true),
            'x.wav',
          );
          const { model, loudnessPlaces } = definition;
          for (const { id } of [{ id: null }, ...model.programmes]) {
            const { items } = selectItems(model, id, 4);
            new Renderer(items, '5.1', 48_000, 480).process(
              Array.from({ length: 4 }, () => new Float32Array(480)),
              480,
            );
          }
          admOutline(model);
          withLoudness(text, loudnessPlaces, () => undefined);
        } catch (error) {
          if (!isAppError(error, 'adm-damaged')) throw error;
          refused++;
        }
      },
    ),
    { numRuns: 10_000 },
  );
  // Neither is all of it refused, nor nothing.
  expect(refused).toBeGreaterThan(500);
  expect(refused).toBeLessThan(5000);
});
