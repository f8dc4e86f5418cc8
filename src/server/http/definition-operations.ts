import * as z from 'zod';
import { renderingList } from '../take-in/renderings';
import { operation } from './operation';

const definitionAnswer = z.looseObject({
  /** A tree: each has its children. */
  outline: z.array(
    z.looseObject({ kind: z.enum(['programme', 'content', 'object']), id: z.string(), name: z.string() }),
  ),
  programmes: z.array(
    z.looseObject({ id: z.string().nullable(), name: z.string(), notRendered: z.string().nullable() }),
  ),
});

/** What is asked of a file's audio definition (ADM). */
export const DEFINITION_OPERATIONS = {
  getDefinition: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/definition',
    tag: 'Programmes',
    summary:
      'What the audio definition (ADM) of a programme’s file describes, and which of its programmes can be rendered.',
    answer: definitionAnswer,
  }),
  takeInRenderings: operation({
    method: 'POST',
    path: '/api/programmes/{programmeId}/renderings',
    tag: 'Programmes',
    status: 204,
    summary:
      'Renders programmes of a file’s audio definition (ADM) for loudspeakers, and takes each in as a programme.',
    body: z.object({ renderings: renderingList }),
  }),
};
