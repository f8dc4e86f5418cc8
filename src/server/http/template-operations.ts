/** What can be asked of templates over HTTP. */
import * as z from 'zod';
import { templateFile } from '@/core/delivery/template';
import { operation } from './operation';

const templateAnswer = z.looseObject({
  id: z.string(),
  name: z.string(),
  isBuiltIn: z.boolean(),
  rows: z.array(z.looseObject({ specId: z.string() })),
  nameTemplate: z.string().nullable(),
});

export const TEMPLATE_OPERATIONS = {
  listTemplates: operation({
    method: 'GET',
    path: '/api/templates',
    tag: 'Templates',
    summary:
      'Templates: deliveries, steps of the treatment and file names for any programme. Those of the app come first.',
    answer: z.object({ templates: z.array(templateAnswer) }),
  }),
  importTemplate: operation({
    method: 'POST',
    path: '/api/templates',
    tag: 'Templates',
    status: 201,
    summary: 'Saves a template, in place of one of the same name.',
    body: templateFile,
    answer: z.object({ templateId: z.string() }),
  }),
  readTemplate: operation({
    method: 'GET',
    path: '/api/templates/{templateId}',
    tag: 'Templates',
    summary: 'A template as a file (JSON), to be kept and brought in elsewhere.',
    answer: templateFile,
  }),
  removeTemplate: operation({
    method: 'DELETE',
    path: '/api/templates/{templateId}',
    tag: 'Templates',
    status: 204,
    summary: 'Deletes a template; what was set by it stays.',
  }),
};
