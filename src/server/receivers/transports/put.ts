import { createReadStream } from 'node:fs';
import { webStream } from '../../http/web-stream';
import { jsonBody, NO_CONTENT, type Sent, send, webAddressProblem } from '../http';
import { type Destination, type Transport, type TransportContext, unreached } from '../transport';
import { ANSWER_NAME, MANIFEST_NAME } from './drop-folder';
import { parseAnswer } from './web-hook';

/** A part of a file is put at a time: an interruption costs no more than what of it was on its way. */
const PART_BYTES = 16 << 20;

/** Objects under the key of the transfer: its files, and last what says that they are whole. */
export const putObjects: Transport = {
  kind: 'put',
  name: 'object store',
  words: 'Files are put to an address, from where an interruption left them, and the answer is fetched there.',
  place: 'address',
  placeholder: 'https://',
  isSigned: true,
  isFetchedFrom: false,
  addressProblem: webAddressProblem,

  async transfer(to, { manifest, paths }, context) {
    let before = 0;
    for (const [i, file] of manifest.files.entries()) {
      await putFile(to, `${manifest.key}/${encodeURIComponent(file.fileName)}`, file, paths[i] as string, {
        ...context,
        onBytes: (bytes) => context.onBytes(before + bytes),
      });
      before += file.sizeBytes;
    }
    const path = `${manifest.key}/${MANIFEST_NAME}`;
    parseAnswer(await send(to, { method: 'PUT', path, ...jsonBody(manifest) }, context, [200, 201, 202]));
  },

  async answer(to, key, context) {
    const path = `${key}/${ANSWER_NAME}`;
    const sent = await send(to, { method: 'GET', path, content: NO_CONTENT }, context, [200, 404]);
    return sent.status === 404 ? undefined : parseAnswer(sent);
  },
};

/** Puts what is not there yet: the receiver says how much it has. */
async function putFile(
  to: Destination,
  path: string,
  { sizeBytes, sha256 }: { sizeBytes: number; sha256: string },
  filePath: string,
  context: TransportContext,
): Promise<void> {
  const head = await send(to, { method: 'HEAD', path, content: NO_CONTENT }, context, [200, 404]);
  let from = head.status === 404 ? 0 : receivedOf(head);
  while (from < sizeBytes) {
    context.onBytes(from);
    const end = Math.min(sizeBytes, from + PART_BYTES);
    const stream = createReadStream(filePath, { start: from, end: end - 1, highWaterMark: 1 << 18 });
    const sent = await send(
      to,
      {
        method: 'PUT',
        path,
        content: `${sha256}:${from}`,
        headers: {
          'Content-Type': 'application/octet-stream',
          'Content-Range': `bytes ${from}-${end - 1}/${sizeBytes}`,
        },
        body: webStream(stream),
      },
      context,
      [200, 201],
    );
    const received = receivedOf(sent);
    if (!(received > from)) throw unreached(new Error('it takes no more of the file'));
    from = received;
  }
  context.onBytes(sizeBytes);
}

/** What the receiver says that it has; an answer without it is not whole. */
function receivedOf({ headers }: Sent): number {
  const received = headers.get('X-Received');
  if (received === null) throw unreached(new Error('its answer is not whole'));
  return Number(received);
}
