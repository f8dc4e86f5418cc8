import * as z from 'zod';

/**
 * Where a delivery goes. `/…` is an address of this app itself, any other is absolute; a folder is an absolute path.
 * A folder is not signed for, so it has no secret.
 */
export const newReceiverFields = z.object({
  name: z.string().trim().min(1, 'Enter a name').max(80),
  /** Of its transport. */
  kind: z.string(),
  address: z.string().trim().min(1, 'Enter an address').max(2000),
  /** Shared with it, to sign what is sent; empty for none. */
  secret: z.string().max(200),
});
export type NewReceiver = z.infer<typeof newReceiverFields>;
