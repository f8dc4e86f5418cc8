import * as z from 'zod';
import { BATCH_OPERATIONS } from './batch-operations';
import { COPY_OUT_OPERATIONS } from './copy-out-operations';
import { CURVE_OPERATIONS } from './curve-operations';
import { DEFINITION_OPERATIONS } from './definition-operations';
import { HAND_OVER_OPERATIONS } from './hand-over-operations';
import { INTAKE_OPERATIONS } from './intake-operations';
import { JOB_OPERATIONS } from './job-operations';
import { LINE_OPERATIONS } from './line-operations';
import { LINE_UP_OPERATIONS } from './line-up-operations';
import { OPERATING_OPERATIONS } from './operating-operations';
import { operation } from './operation';
import { PASS_OPERATIONS } from './pass-operations';
import { PEOPLE_OPERATIONS } from './people-operations';
import { PROGRAMME_OPERATIONS } from './programme-operations';
import { RECEIVER_OPERATIONS } from './receiver-operations';
import { REPLACEMENT_OPERATIONS } from './replacement-operations';
import { SPEC_OPERATIONS } from './spec-operations';
import { TASK_OPERATIONS } from './task-operations';
import { TEMPLATE_OPERATIONS } from './template-operations';

/** Everything that can be asked of this app over HTTP. */
export const OPERATIONS = {
  ...JOB_OPERATIONS,
  ...PROGRAMME_OPERATIONS,
  ...CURVE_OPERATIONS,
  ...LINE_UP_OPERATIONS,
  ...LINE_OPERATIONS,
  ...PASS_OPERATIONS,
  ...PEOPLE_OPERATIONS,
  ...OPERATING_OPERATIONS,
  ...BATCH_OPERATIONS,
  ...TEMPLATE_OPERATIONS,
  ...REPLACEMENT_OPERATIONS,
  ...COPY_OUT_OPERATIONS,
  ...DEFINITION_OPERATIONS,
  ...HAND_OVER_OPERATIONS,
  ...RECEIVER_OPERATIONS,
  ...SPEC_OPERATIONS,
  ...TASK_OPERATIONS,
  ...INTAKE_OPERATIONS,
  openApi: operation({
    method: 'GET',
    path: '/api/openapi.json',
    tag: 'This description',
    summary: 'This description.',
    answer: z.looseObject({ openapi: z.literal('3.1.0') }),
  }),
};
