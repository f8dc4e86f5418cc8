/** What is drawn and heard of a programme. */
import * as z from 'zod';
import { WAVEFORM_LEVELS } from '@/core/loudness/waveform';
import { gainDbSchema } from '@/core/treatment/steps/gain';
import { limitSchema } from '@/core/treatment/steps/limit';
import { preparationSchema, treatmentSchema } from '@/core/treatment/treatment';
import { PREVIEW_CODECS } from '@/formats/preview-codecs';
import { MOST_FRAMES } from '../measure/frames';
import { operation } from './operation';
import { id, json, stretchQuery } from './query';

const preparation = json(preparationSchema);
const treatment = json(treatmentSchema);

export const CURVE_OPERATIONS = {
  trace: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/trace',
    tag: 'Curves',
    summary: 'A programme as it is prepared: readings, series, and its waveform cut to so many columns.',
    query: z.object({ preparation, columns: z.coerce.number().int().min(1).max(8192) }),
    answer: 'bundle',
  }),
  waveform: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/waveform',
    tag: 'Curves',
    summary: 'Buckets of one level of each channel’s waveform.',
    query: z.object({
      preparation,
      level: z.coerce
        .number()
        .int()
        .min(0)
        .max(WAVEFORM_LEVELS.length - 1),
      firstBucket: z.coerce.number().int().nonnegative(),
      buckets: z.coerce.number().int().min(1).max(8192),
    }),
    answer: 'bundle',
  }),
  frames: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/frames',
    tag: 'Curves',
    summary: 'Frames of a programme as it is prepared: some seconds at a time, and none after its end.',
    query: z.object({ preparation, ...stretchQuery }),
    answer: 'bundle',
  }),
  lossy: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/lossy',
    tag: 'Curves',
    summary: 'A span of a programme as a codec leaves it.',
    query: z.object({ treatment, codec: z.enum(PREVIEW_CODECS.map((codec) => codec.id)), ...stretchQuery }),
    answer: 'bundle',
  }),
  reduction: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/reduction',
    tag: 'Curves',
    summary: 'What a treatment’s limiter takes in a stretch.',
    query: z.object({ treatment, ...stretchQuery, frames: stretchQuery.frames.max(MOST_FRAMES) }),
    answer: 'bundle',
  }),
  bands: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/bands',
    tag: 'Curves',
    summary:
      'Level of each third of an octave in a stretch before and after a treatment, and how two channels stand to each other.',
    query: z.object({ treatment, ...stretchQuery }),
    answer: 'bundle',
  }),
  limiter: operation({
    method: 'GET',
    path: '/api/programmes/{programmeId}/limiter',
    tag: 'Curves',
    summary: 'What a limiter could do for a spec (as JSON), or what one makes of a gain. Nothing is written.',
    query: z.union([
      z.object({ preparation, spec: id }),
      z.object({ preparation, gainDb: z.coerce.number().pipe(gainDbSchema), limit: json(limitSchema) }),
    ]),
    answer: 'bundle',
  }),
};
