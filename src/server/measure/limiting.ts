import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { Readings } from '@/core/loudness/readings';
import { specById } from '@/core/spec/catalogue';
import type { Spec } from '@/core/spec/spec';
import { forecastGain, moveLevels } from '@/core/treatment/forecast';
import type { LimitedReadings, Limiting } from '@/core/treatment/limited-forecast';
import type { Answers } from '@/core/treatment/limited-solver';
import type { Treatment } from '@/core/treatment/treatment';
import type { LimitReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { programmes } from '../db/schema';
import { keepForecast, newestTreatment } from '../treatments/treatments';
import { openAudio } from './audio';
import { layoutOf } from './measure-source';

const quietly = () => ({ signal: new AbortController().signal, onProgress: () => undefined });

/** What can be done for a programme where the ceiling stops its gain; null where it has no level to move. */
export async function limiterAnswers(
  server: ServerContext,
  programmeId: string,
  specId: string,
): Promise<Answers | null> {
  const { sourceSha256, fileName } = programmeOf(server, programmeId);
  return (await ask(server, sourceSha256, fileName, specById(specId))).answers ?? null;
}

/** What a programme would read after a gain and a limiter. */
export async function limitedReadings(
  server: ServerContext,
  programmeId: string,
  limiting: Limiting,
): Promise<LimitedReadings> {
  const { sourceSha256, fileName } = programmeOf(server, programmeId);
  return limitedSource(server, sourceSha256, fileName, limiting);
}

/** What a source reads after the gain, limiter and trim of a treatment, whatever else is in it. */
export async function predictTreatment(
  server: ServerContext,
  sha256: string,
  fileName: string,
  { gainDb, limit, trimDb }: Treatment,
): Promise<Readings> {
  if (limit) {
    const { ceilingDbtp } = limit;
    const { readings } = await limitedSource(server, sha256, fileName, { gainDb, ceilingDbtp });
    return trimDb === 0 ? readings : moveLevels(readings, trimDb);
  }
  const source = server.sourceReport(sha256);
  if (!source) throw new AppError('not-measured', { title: fileName });
  const weightedPower = await server.analysis(sha256, (analysis) => analysis.weightedPower());
  return forecastGain(source.readings, weightedPower, gainDb + trimDb);
}

/** Forecasts a programme's newest treatment and keeps that with it, for wherever it is shown at a glance. */
export async function forecastNewest(server: ServerContext, programmeId: string): Promise<void> {
  const newest = newestTreatment(server, programmeId);
  if (!newest?.treatment.limit) return;
  const { sourceSha256, fileName } = programmeOf(server, programmeId);
  const predicted = await predictTreatment(server, sourceSha256, fileName, newest.treatment);
  keepForecast(server, programmeId, newest.version, newest.treatment, predicted);
}

function programmeOf({ db }: ServerContext, programmeId: string) {
  const programme = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  return programme;
}

async function limitedSource(server: ServerContext, sha256: string, fileName: string, limiting: Limiting) {
  return (await ask(server, sha256, fileName, limiting)).limited as LimitedReadings;
}

/** When what was asked last of a source is answered: asks come one after another, so that it is looked through once. */
const asked = new Map<string, Promise<void>>();

async function ask(
  server: ServerContext,
  sha256: string,
  fileName: string,
  what: Spec | Limiting,
): Promise<LimitReport> {
  const source = server.sourceReport(sha256);
  if (!source) throw new AppError('not-measured', { title: fileName });
  const { readings, format } = source;
  const layoutId = layoutOf(server, sha256);
  const limitingPath = server.folder.limiting(sha256, layoutId);
  const weightedPower = await server.analysis(sha256, (analysis) => analysis.weightedPower());
  const audio = await openAudio(server, sha256, fileName, quietly());
  const programme = {
    ...{ readings, weightedPower },
    sampleRateHz: format.sampleRateHz,
    samples: format.frames * format.channels,
  };
  const job = { kind: 'limit', path: audio.path, fileName, layoutId, limitingPath, programme, ask: what } as const;
  const answered = (asked.get(limitingPath) ?? Promise.resolve()).then(() => server.pool.run(job, quietly()));
  const settled = answered.then(
    () => undefined,
    () => undefined,
  );
  asked.set(limitingPath, settled);
  void settled.then(() => asked.get(limitingPath) === settled && asked.delete(limitingPath));
  return answered;
}
