import * as z from 'zod';
import { certificateSchema } from '../delivery/certificate';

/** A name that is safe in a folder and in an address: no way out of either. */
export const sentNameSchema = z
  .string()
  .min(1)
  .max(255)
  .refine((name) => !/[/\\]|\p{Cc}/u.test(name) && name !== '.' && name !== '..', 'not a file name');

/** Stands for one transfer: whatever comes twice under the same key is the same. */
export const transferKeySchema = z.string().regex(/^[0-9a-f]{40}$/);

/** What a receiver is told of a delivery: which bytes it is made of, and what was certified of them. */
export const manifestSchema = z.object({
  manifest: z.literal('opsimeter'),
  version: z.literal(1),
  key: transferKeySchema,
  files: z
    .array(
      z.object({
        fileName: sentNameSchema,
        sizeBytes: z.int().positive(),
        sha256: z.string().regex(/^[0-9a-f]{64}$/),
        /** Where to fetch it; null where it is brought. */
        link: z.url({ protocol: /^https?$/ }).nullable(),
      }),
    )
    .min(1)
    .max(24),
  certificate: certificateSchema,
});
export type Manifest = z.infer<typeof manifestSchema>;

/** What a receiver says of a delivery; `received` until it has looked at it. */
export const receiverAnswerSchema = z.object({
  state: z.enum(['received', 'accepted', 'refused']),
  reasons: z.array(z.string().max(500)).max(50),
});
export type ReceiverAnswer = z.infer<typeof receiverAnswerSchema>;
