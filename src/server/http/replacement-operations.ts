/** What can be asked over HTTP of a new version that takes a programme's place. */
import * as z from 'zod';
import { MISFITS } from '@/core/treatment/refit';
import { operation } from './operation';
import { id } from './query';

const version = z.looseObject({
  fileName: z.string(),
  format: z.looseObject({ sampleRateHz: z.number(), frames: z.number() }),
  levels: z.looseObject({ integratedLufs: z.number().nullable(), truePeakDbtp: z.number().nullable() }),
});

export const REPLACEMENT_OPERATIONS = {
  previewReplacement: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/replacement',
    tag: 'Programmes',
    summary: 'What would be different if another programme of the job took the place of this one. Nothing is changed.',
    query: z.object({ by: id }),
    answer: z.object({
      before: version,
      after: version,
      misfits: z.array(z.object({ text: z.string(), misfit: z.enum(MISFITS) })),
    }),
  }),
  replaceSource: operation({
    method: 'POST',
    path: '/api/programmes/{programmeId}/replacement',
    tag: 'Programmes',
    summary:
      'Gives a programme the source of another, which is taken out of the job with the old one. Everything that is set stays.',
    body: z.object({ by: id }),
    answer: z.looseObject({}),
  }),
};
