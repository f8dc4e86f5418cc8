import * as z from 'zod';

/** How a receiver is reached. */
export const RECEIVER_KINDS = ['drop-folder', 'web-hook', 'put'] as const;
export type ReceiverKind = (typeof RECEIVER_KINDS)[number];

export const RECEIVER_KIND_NAMES: Readonly<Record<ReceiverKind, string>> = {
  'drop-folder': 'drop folder',
  'web-hook': 'web hook',
  put: 'object store',
};

/** What happens on each way, in words. */
export const RECEIVER_KIND_WORDS: Readonly<Record<ReceiverKind, string>> = {
  'drop-folder': 'Files are put into a folder, and its owner’s answer is read from there.',
  'web-hook': 'The receiver is told of the files, fetches them, and is asked for its answer.',
  put: 'Files are put to an address, from where an interruption left them, and the answer is fetched there.',
};

/**
 * Where a delivery goes. `/…` is an address of this app itself, any other is absolute; a folder is an absolute path.
 * A folder is not signed for, so it has no secret.
 */
export const newReceiverSchema = z
  .object({
    name: z.string().trim().min(1, 'A receiver has a name').max(80),
    kind: z.enum(RECEIVER_KINDS),
    address: z.string().trim().min(1, 'A receiver has an address').max(2000),
    /** Shared with it, to sign what is sent; empty for none. */
    secret: z.string().max(200).default(''),
  })
  .superRefine(({ kind, address }, context) => {
    if (kind === 'drop-folder') {
      if (!isAbsolutePath(address))
        context.addIssue({ code: 'custom', message: 'A folder is named by its whole path' });
      return;
    }
    const url = URL.canParse(address) ? new URL(address) : undefined;
    if (!url || !['http:', 'https:'].includes(url.protocol)) {
      context.addIssue({ code: 'custom', message: 'An address begins with http:// or https://' });
    } else if (url.username || url.password) {
      context.addIssue({ code: 'custom', message: 'A password does not belong into an address: set a secret instead' });
    }
  });
export type NewReceiver = z.infer<typeof newReceiverSchema>;

function isAbsolutePath(path: string): boolean {
  return path.startsWith('/') || /^[a-z]:[\\/]/i.test(path);
}
