/** A time code that a person sets: what is written states it, as FFmpeg reads it; what was written with another is out of date. */
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { typedTimeCode } from '@/core/delivery/start-time-code';
import { framesAfterMidnight, timeCodeAt } from '@/core/units/time-code';
import { certificateOf } from '@/server/certificates/certificate';
import { predictionOf, rowOf } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { exportJob } from '@/server/jobs/export-job';
import { receiveJob } from '@/server/jobs/import-job';
import { viewJob } from '@/server/jobs/jobs';
import { addSpans } from '@/server/jobs/markers';
import { metadataOfProgramme, setTimeCode } from '@/server/take-in/time-code';
import { changeTreatment } from '@/server/treatments/treatments';
import { createDelivery } from '../fixtures/delivering';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { gathered } from '../fixtures/unzipped';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const reel = () => wavOf([tone([{ seconds: 6, levelDbfs: -20 }], RATE)], { sampleRateHz: RATE });

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

function timeReferenceOf(path: string): number {
  const asked = ['-v', 'error', '-show_entries', 'format_tags=time_reference', '-of', 'csv=p=0', path];
  return Number(execFileSync('ffprobe', asked).toString());
}

test('what is written begins at it, less what was cut ahead; another one puts what was written out of date', async () => {
  const { programmeId } = await host.measured(reel(), 'reel.wav');
  expect(await metadataOfProgramme(host.server, programmeId)).toMatchObject({ timeCode: null, setTimeCode: null });
  setTimeCode(host.server, programmeId, { label: '01:00:00;00', rate: '29.97-drop' });
  changeTreatment(host.server, programmeId, { trim: { startFrame: 2 * RATE, endFrame: null } });
  await createDelivery(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  const [row] = viewSheet(host.server, host.jobId).rows;
  const { id = '', fileName = '' } = row?.delivery ?? {};
  // An hour of drop-frame labels is 107,892 pictures of 1001/30,000 s: 3,599.9964 s.
  const after = timeReferenceOf(join(host.root, 'deliveries', host.jobId, fileName));
  expect(after).toBe(Math.ceil((107_892 * RATE * 1001) / 30_000) + 2 * RATE);
  expect(certificateOf(host.server, id).startTimeCode).toEqual({ label: '01:00:01;29', rate: '29.97-drop' });
  expect(row?.isStale).toBe(false);
  setTimeCode(host.server, programmeId, { label: '02:00:00:00', rate: '25' });
  await predictionOf(host.server, rowOf(host.server, row?.id ?? ''));
  expect(viewSheet(host.server, host.jobId).rows[0]?.isStale).toBe(true);
  setTimeCode(host.server, programmeId, { label: '01:00:00;00', rate: '29.97-drop' });
  expect(viewSheet(host.server, host.jobId).rows[0]?.isStale).toBe(false);
});

test('it stands in place of the file’s own, for spans as well, until that is taken again', async () => {
  const { programmeId } = await host.measured(reel(), 'reel.wav');
  const list = 'start,end,name\n10:00:02:00,10:00:04:00,Act\n';
  expect((await addSpans(host.server, programmeId, list)).added).toBe(0);
  setTimeCode(host.server, programmeId, { label: '10:00:00:00', rate: '25' });
  expect((await addSpans(host.server, programmeId, list)).added).toBe(1);
  const [programme] = viewJob(host.server, host.jobId).programmes;
  expect(programme?.markers).toMatchObject([{ name: 'Act', startFrame: 2 * RATE, endFrame: 4 * RATE }]);
  expect(programme?.timeCode).toEqual({ label: '10:00:00:00', rate: '25' });
  const { timeCode } = await metadataOfProgramme(host.server, programmeId);
  expect(timeCode && timeCodeAt(timeCode, 3 * RATE, RATE)).toBe('10:00:03:00');
  expect(timeCode && framesAfterMidnight(timeCode, RATE)).toBe(10 * 3600 * RATE);
  setTimeCode(host.server, programmeId, null);
  expect((await metadataOfProgramme(host.server, programmeId)).timeCode).toBeNull();
  expect(() => setTimeCode(host.server, 'nobody', null)).toThrow(expect.objectContaining({ code: 'not-found' }));
});

test('it goes along with its job', async () => {
  const { programmeId } = await host.measured(reel(), 'reel.wav');
  setTimeCode(host.server, programmeId, { label: '10:00:00:00', rate: '23.976' });
  const bytes = await gathered((await exportJob(host.server, host.jobId)).body);
  const jobId = await receiveJob(
    host.server,
    'job.zip',
    (async function* once() {
      yield bytes;
    })(),
  );
  expect(viewJob(host.server, jobId).programmes[0]?.timeCode).toEqual({ label: '10:00:00:00', rate: '23.976' });
});

test.each([
  ['10:00:00:00', '25', true],
  ['10:00:00:25', '25', false],
  ['00:01:00;00', '29.97-drop', false],
  ['00:01:00;02', '29.97-drop', true],
  ['ten', '25', false],
] as const)('%s at %s is typed: %s', (label, rate, isRead) => {
  expect(typedTimeCode.safeParse({ label, rate }).success).toBe(isRead);
});
