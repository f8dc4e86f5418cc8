import * as z from 'zod';

/** What a person calls a programme, notes of it, and counts it to. */
export const descriptionSchema = z.object({
  title: z.string().trim().min(1, 'Enter a title').max(200, 'At most 200 letters'),
  note: z.string().trim().max(2000, 'At most 2000 letters'),
  /** Empty for none. */
  groupName: z.string().trim().max(120, 'At most 120 letters'),
});
export type Description = z.infer<typeof descriptionSchema>;
