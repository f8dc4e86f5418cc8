import { AppError } from '@/core/errors/app-error';
import { type ReceiverAnswer, receiverAnswerSchema } from '@/core/receiver/manifest';
import { jsonBody, NO_CONTENT, type Sent, send, webAddressProblem } from '../http';
import type { Transport } from '../transport';

/** The receiver is told, and fetches for itself; it is asked for its answer under the key of the transfer. */
export const webHook: Transport = {
  kind: 'web-hook',
  name: 'web hook',
  words: 'The receiver is told of the files, fetches them, and is asked for its answer.',
  place: 'address',
  placeholder: 'https://',
  isSigned: true,
  isFetchedFrom: true,
  addressProblem: webAddressProblem,

  async transfer(to, { manifest }, context) {
    parseAnswer(await send(to, { method: 'POST', ...jsonBody(manifest) }, context, [200, 201, 202]));
    context.onBytes(manifest.files.reduce((sum, { sizeBytes }) => sum + sizeBytes, 0));
  },

  async answer(to, key, context) {
    const sent = await send(to, { method: 'GET', path: key, content: NO_CONTENT }, context, [200, 404]);
    return sent.status === 404 ? undefined : parseAnswer(sent);
  },
};

export function parseAnswer({ text }: Sent): ReceiverAnswer {
  try {
    return receiverAnswerSchema.parse(JSON.parse(text));
  } catch (error) {
    throw new AppError('receiver-unreached', { reason: 'its answer can not be understood' }, { cause: error });
  }
}
