/**
 * One verdict for one file, wherever it is asked for: every spec that comes with the app, files that meet and miss in different ways,
 * and every place that judges.
 */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { certificateSchema } from '@/core/delivery/certificate';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { refusals } from '@/core/receiver/acceptance';
import { assess } from '@/core/spec/assess';
import { missedOf, type Verdict, verdictPhrases, verdictState } from '@/core/spec/assessment';
import { SPECS } from '@/core/spec/catalogue';
import { factsOfFile } from '@/core/spec/facts';
import { certificateOf } from '@/server/certificates/certificate';
import { addRow } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { writeRow } from '@/server/deliveries/write-row';
import { viewProgramme } from '@/server/jobs/programme-view';
import { listTakenIn } from '@/server/jobs/take-in-list';
import { opsimeter } from '../fixtures/command';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-verdicts-'));
const at = (name: string) => join(folder, name);

const level = (levelDbfs: number, seconds = 6, rate = 48_000) => tone([{ seconds, levelDbfs }], rate, 997);
const FILES: Readonly<Record<string, Buffer>> = {
  'on target.wav': wavOf(stereo(level(-23))),
  'hot.wav': wavOf(stereo(level(-1))),
  'soft and mono.wav': wavOf([level(-40, 6, 44_100)], { sampleRateHz: 44_100, bits: 16 }),
  'nothing.wav': wavOf(stereo(new Float32Array(48_000))),
  'short.wav': wavOf(stereo(level(-16, 0.3))),
};
const NAMES = Object.keys(FILES);

let host: TestServer;
const ids = new Map<string, string>();
beforeAll(async () => {
  host = new TestServer();
  for (const [name, bytes] of Object.entries(FILES)) {
    writeFileSync(at(name), bytes);
    ids.set(name, (await host.measured(bytes, name)).programmeId);
  }
}, 60_000);
afterAll(async () => {
  await host.remove();
  rmSync(folder, { recursive: true });
});

/** What a verdict comes to, without the words. */
const cored = ({ inside, items }: Pick<Verdict, 'inside' | 'items'>) => ({
  inside,
  items: items.map(({ key, name, measured, state, deviation }) => ({ key, name, measured, state, deviation })),
});
/** As it comes over a wire. */
const asJson = <T>(value: T): T => JSON.parse(JSON.stringify(value));

describe.each(SPECS.map((spec) => [spec.id, spec] as const))('%s', (specId, spec) => {
  const verdicts = () =>
    NAMES.map((name) => {
      const { measured, format } = viewProgramme(host.server, ids.get(name) ?? '');
      if (!measured) throw new Error(`${name} is not measured`);
      return assess(spec, factsOfFile({ ...measured, format }));
    });

  test('the command says what the app says, and exits by it', () => {
    const { out, code } = opsimeter('check', ...NAMES.map(at), '--spec', specId, '--json');
    const said = (JSON.parse(out) as { verdict: Verdict }[]).map(({ verdict }) => cored(verdict));
    const known = verdicts();
    expect(said).toEqual(asJson(known.map(cored)));
    expect(code).toBe(known.every(({ inside }) => inside) ? 0 : 1);
  });

  test('the list of what came in says it in short', () => {
    const { rows } = listTakenIn(host.server, host.jobId, {
      specId,
      order: 'taken-in',
      find: '',
      show: 'all',
      offset: 0,
      limit: 60,
    });
    const known = verdicts();
    expect(rows.map(({ measured }) => measured?.state)).toEqual(known.map(verdictState));
    expect(rows.map(({ measured }) => measured?.misses)).toEqual(
      known.map((verdict) => verdictPhrases(verdict).filter(({ state }) => state !== 'inside')),
    );
  });

  test('a receiver refuses what misses it, for the same reasons', () => {
    const rules = { specId, files: [], name: { pattern: /./, words: 'anything' }, mostBytes: 1e12 };
    NAMES.forEach((name, i) => {
      const { measured, format, sizeBytes } = viewProgramme(host.server, ids.get(name) ?? '');
      if (!measured) throw new Error(`${name} is not measured`);
      const facts = factsOfFile({ ...measured, format });
      const items = verdicts()[i]?.items.filter(({ inside, key }) => !inside && key !== 'premaster') ?? [];
      const reasons = refusals(rules, spec, { files: [{ fileName: name, sizeBytes }], facts });
      expect(reasons.map((reason, n) => reason.startsWith(items[n]?.name ?? '?'))).toEqual(items.map(() => true));
    });
  });

  test('a file that is written is judged as it was forecast, by the sheet, its certificate and the command', async () => {
    const { id } = addRow(host.server, {
      programmeId: ids.get('on target.wav') ?? '',
      specId,
      format: deliveryFormatSchema.parse({ kind: 'wav' }),
      levelMode: { kind: 'as-set' },
    });
    const deliveryId = await writeRow(host.server, id);
    await host.server.runner.whenIdle();
    const row = viewSheet(host.server, host.jobId).rows.find((own) => own.id === id);
    const written = row?.delivery?.written;
    if (!row?.prediction || !written) throw new Error('it was not written');
    const keys = (verdict: Verdict) => missedOf(verdict).map(({ key, name }) => `${key} ${name}`);
    expect(keys(written.verdict)).toEqual(keys(row.prediction.verdict));
    const certificate = certificateSchema.parse(asJson(await certificateOf(host.server, deliveryId)));
    expect(certificate.inside).toBe(written.verdict.inside);
    expect(certificate.checks.map(({ name, inside }) => ({ name, inside }))).toEqual(
      written.verdict.items.map(({ name, inside }) => ({ name, inside })),
    );
    // How it was made is known here only; all else is in the file.
    const path = host.server.folder.delivery(host.jobId, row.delivery?.fileName ?? '');
    const { out } = opsimeter('check', path, '--spec', specId, '--json');
    const [{ verdict }] = JSON.parse(out) as [{ verdict: Verdict }];
    const ofFile = (own: Verdict) =>
      cored(own).items.filter(({ key }) => !key.startsWith('premaster') && key !== 'length');
    expect(ofFile(verdict)).toEqual(asJson(ofFile(written.verdict)));
  });
});
