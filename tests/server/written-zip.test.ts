/** Everything that a job has to hand over as one ZIP: what may be, whole, and nothing else. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { isAppError } from '@/core/errors/app-error';
import { orderAssembly } from '@/server/assemblies/assemblies';
import { acceptDelivery } from '@/server/deliveries/decide';
import { zipWritten } from '@/server/deliveries/download-all';
import { addRow } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { viewJob } from '@/server/jobs/jobs';
import { createLineUp } from '@/server/line-ups/line-ups';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { gathered, unzipped } from '../fixtures/unzipped';
import { wavOf } from '../fixtures/wav';

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

async function programme(name: string, levelDbfs: number) {
  return (await host.measured(wavOf(stereo(tone([{ seconds: 5, levelDbfs }], 48_000))), `${name}.wav`)).programmeId;
}
async function written(programmeId: string, kind: 'wav' | 'flac') {
  const format = deliveryFormatSchema.parse({ kind });
  const { id } = addRow(host.server, {
    programmeId,
    specId: 'ebu-r128',
    format,
    levelMode: { kind: 'as-set' },
    receiverId: null,
  });
  const deliveryId = await writeRow(host.server, id);
  await host.server.runner.whenIdle();
  return deliveryId;
}
async function downloaded() {
  const { body, fileName } = await zipWritten(host.server, host.jobId);
  return { fileName, entries: await unzipped(await gathered(body)) };
}
const code = (error: unknown) => (isAppError(error) ? error.code : error);

test('files that are inside or accepted, records, and certificates; a miss that nobody has decided on is left out', async () => {
  expect(await zipWritten(host.server, host.jobId).catch(code)).toBe('not-found');
  const [inside, loud, louder] = [
    await programme('inside', -23),
    await programme('loud', -18),
    await programme('louder', -12),
  ];
  await written(inside, 'wav');
  const accepted = await written(loud, 'flac');
  await written(louder, 'wav');
  acceptDelivery(host.server, accepted, 'wanted so');
  const lineUpId = createLineUp(host.server, host.jobId, {
    kind: 'record',
    name: 'A record',
    members: [inside, loud].map((programmeId) => ({ programmeId })),
  });
  orderAssembly(host.server, lineUpId, { form: 'continuous', format: { kind: 'wav' } });
  await host.server.runner.whenIdle();
  const { fileName, entries } = await downloaded();
  expect(fileName).toBe('test-job.zip');
  expect([...entries.keys()].sort()).toEqual(
    [
      'A record/A record.csv',
      'A record/A record.cue',
      'A record/A record.pdf',
      'A record/A record.wav',
      'certificates.json',
      'certificates.pdf',
      'inside_ebu-r128_v1.wav',
      'loud_ebu-r128_v1.flac',
    ].sort(),
  );
  const certificates = JSON.parse(String(entries.get('certificates.json')));
  expect(certificates.map(({ programme: title }: { programme: string }) => title).sort()).toEqual(['inside', 'loud']);
  const onDisk = readFileSync(join(host.root, 'deliveries', host.jobId, 'inside_ebu-r128_v1.wav'));
  expect(entries.get('inside_ebu-r128_v1.wav')?.equals(onDisk)).toBe(true);
});

test('what was altered since is not given out; a miss that is left out holds nothing up', async () => {
  await written(await programme('inside', -23), 'wav');
  await written(await programme('louder', -12), 'wav');
  writeFileSync(join(host.root, 'deliveries', host.jobId, 'louder_ebu-r128_v1.wav'), 'other bytes');
  expect([...(await downloaded()).entries.keys()]).toContain('inside_ebu-r128_v1.wav');
  const [delivery] = viewJob(host.server, host.jobId).programmes[0]?.deliveries ?? [];
  writeFileSync(join(host.root, 'deliveries', host.jobId, delivery?.fileName ?? ''), 'other bytes');
  expect(await zipWritten(host.server, host.jobId).catch(code)).toBe('delivery-altered');
});
