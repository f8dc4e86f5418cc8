/** Channel layouts chosen by hand: what they change, what they leave alone, and what is refused. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { bytesSource } from '@/formats/bytes';
import { readPcmHeader } from '@/formats/open-pcm';
import { viewJob } from '@/server/jobs/jobs';
import { chooseLayout } from '@/server/measure/measure-source';
import { changeTreatment, currentTreatment, stepTreatment } from '@/server/treatments/treatments';
import { createDelivery } from '../fixtures/delivering';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const sound = tone([{ seconds: 4, levelDbfs: -20 }], RATE);
const silent = new Float32Array(sound.length);
/** All that is heard is in the fourth channel: the LFE of a usual 5.1, the left surround in film order. */
const SIX = wavOf([silent, silent, silent, sound, silent, silent], { channelMask: 0x3f });

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

const programme = () => viewJob(host.server, host.jobId).programmes[0];
const code = (action: () => void) => {
  try {
    action();
    return undefined;
  } catch (error) {
    return error instanceof AppError ? error.code : error;
  }
};

test('the source is measured anew in the layout, and again in its own', async () => {
  const { sha256 } = await host.measured(SIX);
  expect(programme()).toMatchObject({ layoutId: null, format: { layout: '5.1' } });
  expect(programme()?.measured?.readings.integratedLufs).toBeNull();

  chooseLayout(host.server, sha256, '5.1-film');
  expect(programme()?.measured).toBeNull();
  await host.server.runner.whenIdle();
  expect(programme()).toMatchObject({ layoutId: '5.1-film', format: { layout: '5.1 in film order' } });
  // One channel at −20 dBFS reads −23.0 LUFS, and 10·log10(1.41) more where it stands beside the listener.
  expect(programme()?.measured?.readings.integratedLufs).toBeCloseTo(-23.01 + 1.49, 1);
  expect(programme()?.measured?.readings.perChannel.map(({ label }) => label)).toEqual([
    'L',
    'C',
    'R',
    'Ls',
    'Rs',
    'LFE',
  ]);

  chooseLayout(host.server, sha256, null);
  await host.server.runner.whenIdle();
  expect(programme()).toMatchObject({ layoutId: null, format: { layout: '5.1' } });
  expect(programme()?.measured?.readings.integratedLufs).toBeNull();
});

test('a downmix that is set goes by the layout, and what it was can be had back', async () => {
  const { sha256, programmeId } = await host.measured(SIX);
  changeTreatment(host.server, programmeId, { downmix: { to: 'mono', from: ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'] } });
  chooseLayout(host.server, sha256, '5.1-film');
  await host.server.runner.whenIdle();
  const downmix = () => currentTreatment(host.server, programmeId)?.treatment.downmix;
  expect(downmix()).toEqual({ to: 'mono', from: ['L', 'C', 'R', 'Ls', 'Rs', 'LFE'] });
  // The fourth channel, of which there was nothing while it was the LFE, is there at −6 dB as a surround.
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  const delivery = programme()?.deliveries[0];
  expect(delivery?.written?.format).toMatchObject({ channels: 1, layout: 'mono' });
  expect(delivery?.written?.readings.integratedLufs).toBeCloseTo(-23.01 - 6.02, 1);
  stepTreatment(host.server, programmeId, 'undo');
  expect(downmix()).toEqual({ to: 'mono', from: ['L', 'R', 'C', 'LFE', 'Ls', 'Rs'] });
});

test('what is chosen last holds, however quickly it comes', async () => {
  const { sha256 } = await host.measured(SIX);
  for (const layoutId of ['5.1-film', null, '5.1-centre-last', '5.1-film']) chooseLayout(host.server, sha256, layoutId);
  await host.server.runner.whenIdle();
  expect(programme()).toMatchObject({ layoutId: '5.1-film', format: { layout: '5.1 in film order' } });
});

test('a delivery in film order is written in the order of its mask, and measured by role', async () => {
  const { sha256, programmeId } = await host.measured(SIX);
  chooseLayout(host.server, sha256, '5.1-film');
  await host.server.runner.whenIdle();
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  const delivery = programme()?.deliveries[0];
  expect(delivery?.written?.readings.integratedLufs).toBeCloseTo(delivery?.predicted.integratedLufs ?? Number.NaN, 3);
  const bytes = readFileSync(join(host.root, 'deliveries', host.jobId, delivery?.fileName as string));
  const { format } = await readPcmHeader(bytesSource(bytes), 'delivery.wav');
  expect(format).toMatchObject({ channels: 6, channelMask: 0x3f });

  // What has been written keeps its readings when the source is read otherwise.
  chooseLayout(host.server, sha256, null);
  await host.server.runner.whenIdle();
  expect(programme()?.deliveries[0]?.written?.readings).toEqual(delivery?.written?.readings);
});

test('a layout of another number of channels, and a source that is not there, are refused', async () => {
  const { sha256 } = await host.measured(SIX);
  expect(code(() => chooseLayout(host.server, sha256, 'stereo'))).toBe('bad-request');
  expect(code(() => chooseLayout(host.server, sha256, 'no such layout'))).toBe('bad-request');
  expect(code(() => chooseLayout(host.server, '0'.repeat(64), 'stereo'))).toBe('not-found');
  expect(programme()?.measured).not.toBeNull();
});
