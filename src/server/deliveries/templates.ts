import { asc, eq } from 'drizzle-orm';
import {
  STARTERS,
  stepsFor,
  stepsForOthers,
  type Template,
  templateFile,
  templateSettings,
} from '@/core/delivery/template';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { deliverySets, jobs, programmes } from '../db/schema';
import { newId } from '../ids';
import { programmesWhere } from '../jobs/programme-view';
import { listReceivers } from '../receivers/receivers';
import { specNamed } from '../specs/specs';
import { changeTreatment, currentTreatment } from '../treatments/treatments';
import { templatesMessages as messages } from './messages';
import { factsOf } from './predict';
import { addRow, keyOf, rowsOfProgramme, setNameTemplate } from './rows';

export interface TemplateView extends Template {
  id: string;
  isBuiltIn: boolean;
}

/** Those of the app first, then one's own by name. */
export function listTemplates({ db }: ServerContext): TemplateView[] {
  const own = db.select().from(deliverySets).orderBy(asc(deliverySets.name)).all();
  return [
    ...STARTERS.map((starter) => ({ ...starter, isBuiltIn: true })),
    ...own.map(({ id, name, rows, settings }) => ({
      ...(settings ?? templateSettings.parse({})),
      id,
      name,
      rows,
      isBuiltIn: false,
    })),
  ];
}

/** Throws `not-found`. */
export function templateOf(server: ServerContext, templateId: string): TemplateView {
  const template = listTemplates(server).find(({ id }) => id === templateId);
  if (!template) throw new AppError('not-found', { what: 'template' });
  return template;
}

/** Saves the rows of a programme as a template, with its treatment and the names of its job if that is wanted; in place of one of its name. */
export function saveRowsAsTemplate(
  server: ServerContext,
  name: string,
  programmeId: string,
  { withTreatment = false, withNames = false }: { withTreatment?: boolean; withNames?: boolean } = {},
): string {
  const own = rowsOfProgramme(server, programmeId);
  const [first] = own;
  const rows = own
    .filter(({ trim }) => trim === null)
    .map(({ specId, format, levelMode, receiverId }) => ({ specId, format, levelMode, receiverId }));
  if (!first || rows.length === 0) throw new AppError('bad-request', { reason: messages.noRows });
  const treatment = currentTreatment(server, programmeId)?.treatment;
  const steps = withTreatment && treatment ? stepsForOthers(treatment) : {};
  const { source } = factsOf(server, first);
  const job = server.db.select().from(jobs).where(eq(jobs.id, first.jobId)).get();
  return saveTemplate(server, {
    name,
    rows,
    treatment: Object.keys(steps).length > 0 ? steps : null,
    sampleRateHz: treatment?.resampleHz ?? source.format.sampleRateHz,
    nameTemplate: withNames ? (job?.nameTemplate ?? null) : null,
  });
}

/** Saves a template that comes as a file, in place of one of its name. Throws where it is none. */
export function importTemplate(server: ServerContext, input: unknown): string {
  const { format: _format, version: _version, ...template } = templateFile.parse(input);
  return saveTemplate(server, template);
}

function saveTemplate({ db, clock }: ServerContext, { name, rows, ...settings }: Template): string {
  const id = newId();
  db.transaction(
    (tx) => {
      tx.delete(deliverySets).where(eq(deliverySets.name, name)).run();
      tx.insert(deliverySets).values({ id, name, rows, settings, createdAtMs: clock.now() }).run();
    },
    { behavior: 'immediate' },
  );
  return id;
}

export function removeTemplate({ db }: ServerContext, templateId: string): void {
  db.delete(deliverySets).where(eq(deliverySets.id, templateId)).run();
}

/**
 * Applies a template to programmes of one job: its steps, its rows but for those that are there already, and its names.
 *
 * @returns how many rows there are more
 * @throws AppError `not-found`, or `unknown-spec` before anything is set
 */
export function applyTemplate(server: ServerContext, templateId: string, programmeIds: readonly string[]): number {
  const { rows, nameTemplate, ...settings } = templateOf(server, templateId);
  // Before anything is set: one brought in may name a spec that is not here.
  for (const { specId } of rows) specNamed(server, specId);
  const receivers = new Set(listReceivers(server).map(({ id }) => id));
  let added = 0;
  for (const { programmes: programme, sources: source } of programmesWhere(
    server,
    among(programmes.id, programmeIds),
  )) {
    const there = new Set(rowsOfProgramme(server, programme.id).map(keyOf));
    for (const row of rows) {
      if (there.has(keyOf(row))) continue;
      there.add(keyOf(row));
      // A receiver that was taken away since leaves its rows here.
      const receiverId = receivers.has(row.receiverId ?? '') ? row.receiverId : null;
      addRow(server, { programmeId: programme.id, ...row, receiverId });
      added++;
    }
    const { resampleHz = null } = currentTreatment(server, programme.id)?.treatment ?? {};
    const steps = stepsFor({ ...settings, nameTemplate }, resampleHz ?? source.format.sampleRateHz);
    if (Object.keys(steps).length > 0) changeTreatment(server, programme.id, steps);
    if (nameTemplate !== null) setNameTemplate(server, programme.jobId, nameTemplate);
  }
  return added;
}
