import { AppError } from '@/core/errors/app-error';

/** Nothing that this app is told goes deeper. What reads it goes down step by step, and has an end to its stack. */
const DEEPEST = 64;

/** The text of a body. Throws `too-large`, before it is all in memory. */
export async function boundedText(body: AsyncIterable<Uint8Array>, mostBytes: number): Promise<string> {
  const decoder = new TextDecoder();
  let text = '';
  let sizeBytes = 0;
  for await (const piece of body) {
    sizeBytes += piece.length;
    if (sizeBytes > mostBytes) {
      throw new AppError('too-large', { what: 'The body of the request', most: `${mostBytes >> 20} MB` });
    }
    text += decoder.decode(piece, { stream: true });
  }
  return text + decoder.decode();
}

/** JSON that is nested no deeper than what this app is told ever is. Throws a `SyntaxError`. */
export function parseBounded(text: string): unknown {
  if (depthOf(text) > DEEPEST) throw new SyntaxError(`it is nested more than ${DEEPEST} deep`);
  return JSON.parse(text);
}

/** How deep lists and objects lie in each other, from the brackets outside of strings. */
function depthOf(text: string): number {
  let depth = 0;
  let deepest = 0;
  let isInString = false;
  for (let at = 0; at < text.length; at++) {
    const character = text[at];
    if (isInString && character === '\\') at++;
    else if (character === '"') isInString = !isInString;
    else if (isInString) continue;
    else if (character === '[' || character === '{') deepest = Math.max(deepest, ++depth);
    else if (character === ']' || character === '}') depth--;
  }
  return deepest;
}
