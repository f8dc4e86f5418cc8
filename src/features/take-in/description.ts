import * as z from 'zod';
import { descriptionMessages as messages } from './messages';

/** What a person calls a programme, notes of it, and counts it to. */
export const descriptionSchema = z.object({
  title: z.string().trim().min(1, messages.enterATitle).max(200, messages.atMost200Characters),
  note: z.string().trim().max(2000, messages.atMost2000Characters),
  /** Empty for none. */
  groupName: z.string().trim().max(120, messages.atMost120Characters),
});
export type Description = z.infer<typeof descriptionSchema>;

/** A change of it: what is left out stays. */
export const descriptionChange = z.object({
  title: descriptionSchema.shape.title.exactOptional(),
  note: descriptionSchema.shape.note.exactOptional(),
  groupName: descriptionSchema.shape.groupName.exactOptional(),
});
export type DescriptionChange = z.infer<typeof descriptionChange>;
