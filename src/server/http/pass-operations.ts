/** What can be asked of passes through outboard gear over HTTP. */
import * as z from 'zod';
import { passFields } from '@/core/outboard/pass';
import { operation } from './operation';

export const PASS_OPERATIONS = {
  beginPass: operation({
    method: 'POST',
    path: '/api/programmes/{programmeId}/passes',
    tag: 'Outboard',
    status: 201,
    summary: 'Begins a pass of a programme through outboard gear, whose frames are sent next.',
    body: passFields,
    answer: z.object({ passId: z.string() }),
  }),
  pushPassFrames: operation({
    method: 'POST',
    path: '/api/passes/{passId}/frames',
    tag: 'Outboard',
    status: 204,
    summary:
      'Frames of a pass: of each the channels that were sent, then those that came back at the same time, as 32-bit float, little-endian.',
    query: z.object({ startFrame: z.coerce.number().int().nonnegative() }),
    body: 'bytes',
  }),
  finishPass: operation({
    method: 'POST',
    path: '/api/passes/{passId}/finish',
    tag: 'Outboard',
    status: 204,
    summary:
      'Ends a pass that came back whole: it is found how much later, and what came back becomes a programme of the job.',
    body: z.object({ firstFrame: z.int().nonnegative() }),
  }),
  removePass: operation({
    method: 'DELETE',
    path: '/api/passes/{passId}',
    tag: 'Outboard',
    status: 204,
    summary: 'Gives up a pass that is under way, or forgets one; what came back stays in its job.',
  }),
};
