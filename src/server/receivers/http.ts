import { createHash } from 'node:crypto';
import { Agent, type BodyInit, fetch, Headers, type RequestInit } from 'undici';
import { AppError } from '@/core/errors/app-error';
import { guardedLookup, isRefusedHost, REFUSED_CODE } from './addresses';
import { httpMessages as messages } from './messages';
import { sign } from './signature';
import { type Destination, type TransportContext, unreached } from './transport';

/** A receiver that says nothing for so long is taken to be gone. */
const ANSWER_WITHIN_MS = 60_000;

/** It was too late, out of step with what is there, or too often. */
const WORTH_ANOTHER_TRY = [408, 409, 429];

/** What is wrong with an address that is reached by HTTP. */
export function webAddressProblem(address: string): string | undefined {
  const url = URL.canParse(address) ? new URL(address) : undefined;
  if (!url || !['http:', 'https:'].includes(url.protocol)) return messages.addressNeedsAScheme;
  if (isRefusedHost(url.hostname)) return messages.refusedAddress;
  return url.username || url.password ? messages.noPasswordInAddress : undefined;
}

/** More than an answer ever has. */
const MOST_ANSWER_BYTES = 1 << 20;

export interface Sent {
  status: number;
  headers: Headers;
  /** Whole: an answer that breaks off is a connection that was lost. */
  text: string;
}

/** What is answered below 500 and is not among `fine` is a refusal for good; what is above, or no answer, is worth another try. */
export async function send(
  { address, secret }: Destination,
  request: { method: string; path?: string; content: string; headers?: Record<string, string>; body?: BodyInit },
  { signal, clock }: TransportContext,
  fine: readonly number[],
): Promise<Sent> {
  const url = new URL(request.path === undefined ? address : `${address.replace(/\/$/, '')}/${request.path}`);
  const { method, content } = request;
  const headers = new Headers(request.headers);
  headers.set('X-Content', content);
  if (secret) headers.set('Authorization', sign(secret, { method, path: url.pathname, content }, clock.now()));
  const sent = await exchange(url, { method, headers, ...(request.body ? { body: request.body } : {}) }, signal);
  if (fine.includes(sent.status)) return sent;
  if (sent.status >= 500 || WORTH_ANOTHER_TRY.includes(sent.status)) {
    throw new AppError('receiver-unreached', { reason: messages.answered(sent.status) });
  }
  throw new AppError('receiver-refuses', { reason: refusalOf(sent) });
}

/** Connections of receivers: of a name, what it stands for is looked at as well. */
const connections = new Agent({ connect: { lookup: guardedLookup } });

async function exchange(url: URL, init: RequestInit, signal: AbortSignal): Promise<Sent> {
  if (isRefusedHost(url.hostname)) throw new AppError('receiver-refuses', { reason: messages.refusedAddress });
  try {
    const response = await fetch(url, {
      ...init,
      dispatcher: connections,
      // Where it leads elsewhere, what is signed for one address would go to another.
      redirect: 'error',
      signal: AbortSignal.any([signal, AbortSignal.timeout(ANSWER_WITHIN_MS)]),
      ...(init.body ? { duplex: 'half' } : {}),
    } as RequestInit);
    const text = await response.text();
    return { status: response.status, headers: response.headers, text: text.slice(0, MOST_ANSWER_BYTES) };
  } catch (error) {
    if (signal.aborted) throw new AppError('cancelled', {}, { cause: error });
    if (((error as Error).cause as NodeJS.ErrnoException | undefined)?.code === REFUSED_CODE) {
      throw new AppError('receiver-refuses', { reason: messages.refusedAddress }, { cause: error });
    }
    throw unreached(error);
  }
}

/** What a receiver says of why, where it says so in our way; else what its status means. */
function refusalOf({ status, text }: Sent): string {
  const told = (() => {
    try {
      return (JSON.parse(text) as { error?: { happened?: unknown } }).error?.happened;
    } catch {
      return undefined;
    }
  })();
  if (typeof told === 'string' && told.length > 0) return told.slice(0, 300).replace(/[.]$/, '');
  if (status === 401 || status === 403) return messages.signatureRefused(status);
  return messages.answered(status);
}

function sha256(text: string): string {
  return createHash('sha256').update(text).digest('hex');
}

/** A body of JSON, with what a signature needs to know of it. */
export function jsonBody(value: unknown) {
  const body = JSON.stringify(value);
  return { body, content: sha256(body), headers: { 'Content-Type': 'application/json' } };
}

export const NO_CONTENT = sha256('');
