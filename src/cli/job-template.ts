/** Templates in a job file: one of those that come with the app, or a file that was saved from it. */
import { existsSync, readFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { STARTERS, type Template, templateFile } from '@/core/delivery/template';
import { AppError } from '@/core/errors/app-error';
import { jobTemplateMessages as messages } from './messages';

/** What templates that come with the app are called ahead of their name. */
const STARTER = 'starter-';

/**
 * @param named `podcast`, `broadcast`, `audiobook` or `record`, or a file from where the job file lies
 * @throws AppError `usage` where there is none, or the file is no template
 */
export function templateNamed(named: string, jobFolder: string): Template {
  const starter = STARTERS.find(({ id }) => id === `${STARTER}${named}`);
  if (starter) return starter;
  const path = resolve(jobFolder, named);
  if (!existsSync(path)) {
    const known = STARTERS.map(({ id }) => id.slice(STARTER.length)).join(', ');
    throw new AppError('usage', { reason: messages.unknown(named, known) });
  }
  try {
    const {
      format: _format,
      version: _version,
      ...template
    } = templateFile.parse(JSON.parse(readFileSync(path, 'utf8')));
    return template;
  } catch (error) {
    throw new AppError('usage', { reason: messages.unreadable(named) }, { cause: error });
  }
}
