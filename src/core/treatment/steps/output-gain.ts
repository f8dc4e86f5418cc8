import * as z from 'zod';
import { formatGain } from '../../units/format';
import { defineStep } from '../step';

/** Behind a limiter a level only ever goes down, so that the ceiling holds. */
export const OUTPUT_GAINS_DB = { least: -24, most: 0 } as const;

export const outputGainStep = defineStep({
  title: 'Output gain',
  schema: z.number().min(OUTPUT_GAINS_DB.least).max(OUTPUT_GAINS_DB.most).default(0),
  stage: 'finish',
  describe: (gainDb) => (gainDb === 0 ? null : `Output gain ${formatGain(gainDb, 2)}`),
  flags: [
    {
      name: 'output-gain',
      value: 'DB',
      help: `turn down behind the limiter (${OUTPUT_GAINS_DB.least} to ${OUTPUT_GAINS_DB.most})`,
    },
  ],
  read: (flags) => flags.number('output-gain', OUTPUT_GAINS_DB.least, OUTPUT_GAINS_DB.most) ?? 0,
});
