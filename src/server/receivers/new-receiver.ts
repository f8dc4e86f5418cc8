import * as z from 'zod';
import { newReceiverFields } from '@/core/receiver/receiver';
import { TRANSPORTS } from './transports';

/** A receiver as a person or the API states it, held against what its transport can reach. */
export const newReceiverSchema = newReceiverFields
  .extend({ kind: z.enum(TRANSPORTS.map(({ kind }) => kind)), secret: newReceiverFields.shape.secret.default('') })
  .superRefine(({ kind, address }, context) => {
    const message = TRANSPORTS.find((transport) => transport.kind === kind)?.addressProblem(address);
    if (message) context.addIssue({ code: 'custom', path: ['address'], message });
  });
