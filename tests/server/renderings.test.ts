/** Renderings of audio definitions (ADM), taken in by the app: as they are by hand, once, whatever happens meanwhile. */

import { viewJob } from '@/server/jobs/jobs';
import { listTakenIn, takeInListing } from '@/server/jobs/take-in-list';
import { definitionOf, performRendering, takeInRenderings } from '@/server/take-in/renderings';
import { quietly } from '@/server/tasks/runner';
import { type AdmRecipe, admWav } from '../fixtures/adm';
import { createDelivery } from '../fixtures/delivering';
import { TestServer } from '../fixtures/server';
import { measure, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const voice = tone([{ seconds: 4, levelDbfs: -20 }], RATE, 440);
const comet = tone([{ seconds: 4, levelDbfs: -26 }], RATE, 660);
const RECIPE: AdmRecipe = {
  programmes: [
    { name: 'Main', language: 'en', contents: [{ name: 'All', objects: [0, 1] }] },
    { name: 'Voice', contents: [{ name: 'Voice', objects: [0] }] },
    { name: 'Wide', contents: [{ name: 'Wide', objects: [2] }] },
  ],
  objects: [
    { name: 'Voice', tracks: [{ channel: 1, type: 'Objects', blocks: [{ azimuth: 0 }] }] },
    { name: 'Comet', tracks: [{ channel: 2, type: 'Objects', blocks: [{ azimuth: 110 }] }] },
    { name: 'Cloud', tracks: [{ channel: 2, type: 'Objects', blocks: [{ more: '<width>90</width>' }] }] },
  ],
};

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

const listed = () =>
  listTakenIn(host.server, host.jobId, { specId: 'ebu-r128', offset: 0, limit: 50, ...takeInListing.parse({}) }).rows;
const titles = () => viewJob(host.server, host.jobId).programmes.map(({ title }) => title);

test('a definition is shown, and what of it can be rendered', async () => {
  const { programmeId } = await host.measured(admWav(RECIPE, [voice, comet]), 'dome.wav');
  expect(await definitionOf(host.server, programmeId)).toMatchObject({
    outline: [{ name: 'Main', children: [{ children: [{ name: 'Voice' }, { name: 'Comet' }] }] }, {}, {}],
    programmes: [
      { id: 'APR_1001', name: 'Main', notRendered: null },
      { id: 'APR_1002', notRendered: null },
      { id: 'APR_1003', notRendered: '“Cloud 3” has a size (width, height or depth)' },
    ],
  });
  const plain = await host.measured(wavOf([voice]), 'plain.wav');
  await expect(definitionOf(host.server, plain.programmeId)).rejects.toMatchObject({ code: 'no-adm' });
  await expect(definitionOf(host.server, 'nobody')).rejects.toMatchObject({ code: 'not-found' });
});

test('readings of tracks are told to be no readings of what is heard; a bed is what is heard', async () => {
  await host.measured(admWav(RECIPE, [voice, comet]), 'dome.wav');
  const tracks = ['M+030', 'M-030'].map((label, i) => ({
    channel: i + 1,
    type: 'DirectSpeakers' as const,
    blocks: [{ label, azimuth: i === 0 ? 30 : -30 }],
  }));
  const bed = {
    programmes: [{ name: 'Bed', contents: [{ name: 'Bed', objects: [0] }] }],
    objects: [{ name: 'Bed', tracks }],
  };
  await host.measured(admWav(bed, [voice, comet]), 'bed.wav');
  const told = listed().map(({ measured }) => measured?.findings.some(({ code }) => code === 'tracks-of-objects'));
  expect(told).toEqual([true, false]);
});

test('each rendering becomes a programme of its own, asked once or twice at once, and is delivered as any other', async () => {
  const { programmeId } = await host.measured(admWav(RECIPE, [voice, comet]), 'dome.wav');
  const wanted = [
    { audioProgramme: 'APR_1001', layout: '5.1' },
    { audioProgramme: 'APR_1001', layout: 'stereo' },
    { audioProgramme: 'APR_1002', layout: '7.1.4' },
  ] as const;
  await Promise.all([
    takeInRenderings(host.server, programmeId, wanted),
    takeInRenderings(host.server, programmeId, wanted),
  ]);
  expect(listed()[0]?.renderings.map(({ layout }) => layout)).toEqual(['5.1', 'stereo', '7.1.4']);
  await host.server.runner.whenIdle();
  expect(titles().toSorted()).toEqual([
    'dome',
    'dome, “Main” in 5.1',
    'dome, “Main” in stereo',
    'dome, “Voice” in 7.1.4',
  ]);
  expect(listed().flatMap(({ renderings }) => renderings)).toEqual([]);
  const row = (title: string) => listed().find((own) => own.title === title);
  const surround = row('dome, “Main” in 5.1');
  expect(surround).toMatchObject({
    fileName: 'dome_Main_5.1.wav',
    format: { channels: 6, layout: '5.1', sampleFormat: 'float', frames: 4 * RATE },
  });
  expect(row('dome, “Voice” in 7.1.4')?.format).toMatchObject({ channels: 12, layout: '7.1.4' });
  // By hand: the voice in the centre, the comet in the left surround.
  const silence = new Float32Array(voice.length);
  const byHand = measure([silence, silence, voice, silence, comet, silence], RATE, { channelMask: 0x3f });
  const { integratedLufs } = byHand.readings;
  expect(surround?.measured?.readings.integratedLufs).toBeCloseTo(integratedLufs as number, 2);
  await createDelivery(
    host.server,
    viewJob(host.server, host.jobId).programmes.find(({ title }) => title === 'dome, “Main” in 5.1')?.id ?? '',
    'ebu-r128',
  );
  await host.server.runner.whenIdle();
  const delivery = viewJob(host.server, host.jobId).programmes.flatMap(({ deliveries }) => deliveries)[0];
  expect(delivery?.written?.readings.integratedLufs).toBeCloseTo(integratedLufs as number, 2);
});

test('done again, as after a crash, nothing is there twice; cancelled, nothing is left half taken in', async () => {
  const { programmeId } = await host.measured(admWav(RECIPE, [voice, comet]), 'dome.wav');
  await takeInRenderings(host.server, programmeId, [{ audioProgramme: 'APR_1001', layout: '5.1' }]);
  await host.server.runner.whenIdle();
  await performRendering(host.server, `${programmeId} APR_1001 5.1`, quietly());
  expect(titles()).toEqual(['dome', 'dome, “Main” in 5.1']);
  const controller = new AbortController();
  controller.abort();
  await expect(
    performRendering(host.server, `${programmeId} APR_1002 5.1`, { ...quietly(), signal: controller.signal }),
  ).rejects.toMatchObject({ code: 'cancelled' });
  expect(titles()).toHaveLength(2);
  expect(host.files().filter((name) => name.startsWith('incoming'))).toEqual([]);
});

test('what cannot be rendered is refused before anything begins', async () => {
  const { programmeId } = await host.measured(admWav(RECIPE, [voice, comet]), 'dome.wav');
  const ask = (audioProgramme: string | null) =>
    takeInRenderings(host.server, programmeId, [
      { audioProgramme: 'APR_1001', layout: '5.1' },
      { audioProgramme, layout: '5.1' },
    ]);
  await expect(ask('APR_1003')).rejects.toMatchObject({ code: 'adm-not-rendered' });
  await expect(ask('APR_9999')).rejects.toMatchObject({ code: 'no-such-programme' });
  await expect(ask(null)).rejects.toMatchObject({ code: 'no-such-programme' });
  await host.server.runner.whenIdle();
  expect(titles()).toEqual(['dome']);
});
