import * as z from 'zod';

/** What a person types on the hand-over page, as the page and the server both hold it. */

export const acceptanceSchema = z.object({
  reason: z.string().trim().min(3, 'Enter a reason of at least three letters').max(2000, 'At most 2000 letters'),
});

export const setNameSchema = z.object({
  name: z.string().trim().min(1, 'Enter a name').max(80, 'At most 80 letters'),
});

export const nameTemplateSchema = z.object({
  template: z.string().trim().min(1, 'Enter a name for the files').max(200, 'At most 200 letters'),
});
