import * as z from 'zod';
import { inputsMessages as messages } from './messages';

/** What a person types on the hand-over page, as the page and the server both hold it. */

export const acceptanceSchema = z.object({
  reason: z.string().trim().min(3, messages.enterAReason).max(2000, messages.atMost2000Characters),
});

export const templateNameSchema = z.object({
  name: z.string().trim().min(1, messages.enterAName).max(80, messages.atMost80Characters),
});

export const nameTemplateSchema = z.object({
  template: z.string().trim().min(1, messages.enterATemplate).max(200, messages.atMost200Characters),
});
