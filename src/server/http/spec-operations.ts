/** Specs, as they are now and in their versions. */
import * as z from 'zod';
import { specSchema } from '@/core/spec/spec';
import { operation } from './operation';

export const SPEC_OPERATIONS = {
  listSpecs: operation({
    method: 'GET',
    path: '/api/specs',
    tag: 'Specs',
    summary: 'Every spec, in its newest version.',
    answer: z.array(specSchema),
  }),
  saveSpec: operation({
    method: 'POST',
    path: '/api/specs',
    tag: 'Specs',
    status: 201,
    summary: 'Brings in a spec as one of your own: new, or the next version of what its id names.',
    body: specSchema,
    answer: specSchema,
  }),
  viewSpec: operation({
    method: 'GET',
    path: '/api/specs/{specId}',
    tag: 'Specs',
    summary: 'A spec, as it is now or in one of its versions.',
    query: z.object({ version: z.coerce.number().int().optional() }),
    answer: specSchema,
  }),
};
