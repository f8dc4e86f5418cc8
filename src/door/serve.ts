/** Serves the app, on loopback only unless it is told otherwise, and answers only to its own names and to who may ask. */
import { randomBytes, randomUUID } from 'node:crypto';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { createServer as createSecureServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import next from 'next';
import { isForAll } from '@/core/access/rights';
import { AppError, type ErrorRecord } from '@/core/errors/app-error';
import { doorMessages as messages } from './messages';
import { OpenBodies } from './open-bodies';
import { isKnownMethod, isOurs, pathOf } from './requests';
import { securityHeaders } from './security-headers';
import { type DoorSettings, doorSettings } from './settings';

/** What a line or an upload under way has to come to its end, once the app is to end. */
const ENDS_WITHIN_MS = 8000;
const MOST_CONNECTIONS = 2000;
const LOOPBACK = '127.0.0.1';

/** The app's own server, as far as it is known here. */
interface AppServer {
  close(): Promise<void>;
  problem(): ErrorRecord | undefined;
  hasPeople(): boolean;
  gate: {
    admit(asked: {
      method: string;
      path: string;
      cookie: string | undefined;
      authorization: string | undefined;
    }): { isIn: true; who: string; role: string } | { isIn: false; error: { code: string; toJSON(): ErrorRecord } };
  };
}

/** What the app, which is bundled apart, leaves for whoever started its process. */
const left = globalThis as { opsimeterStartFailure?: ErrorRecord; opsimeterServer?: AppServer };

type Handle = (request: IncomingMessage, response: ServerResponse) => Promise<void>;

/** @throws nothing: where it can't serve, it says why and ends the process */
export async function serve({ isDevelopment = false } = {}): Promise<void> {
  process.chdir(fileURLToPath(new URL('..', import.meta.url)));
  const settings = settingsOrEnd();
  const { host, port, scheme, tls, demandsPeople } = settings;
  // What comes while the app is starting waits: an upload that goes on would take a refusal for the loss of what arrived.
  let started: (handle: Handle) => void = () => undefined;
  const starting = new Promise<Handle>((resolve) => {
    started = resolve;
  });
  const silenceSeconds = Number(process.env.OPSIMETER_UPLOAD_SILENCE_S) || undefined;
  const bodies = new OpenBodies(silenceSeconds === undefined ? {} : { silentMs: silenceSeconds * 1000 });
  const door = { settings, bodies, starting, isDevelopment };
  const handler = (request: IncomingMessage, response: ServerResponse) => letIn(door, request, response);
  const server = tls ? createSecureServer(tls, handler) : createServer(handler);
  await listen(server, port, host);
  // Where this process itself asks: the first request, and its own simulated intakes.
  const inside = demandsPeople ? await listenInside(door) : undefined;
  const own = inside ? `http://${LOOPBACK}:${(inside.address() as AddressInfo).port}` : `http://${LOOPBACK}:${port}`;
  process.env.OPSIMETER_URL = own;
  const [name = `${LOOPBACK}:${port}`] = settings.names;
  // What receivers outside are told to fetch from.
  if (inside) process.env.OPSIMETER_PUBLIC_URL ||= `${scheme}://${name}`;

  const app = next({ dev: isDevelopment, hostname: host, port, dir: process.cwd() });
  await app.prepare().catch(fail);
  started(app.getRequestHandler() as Handle);
  // The first request starts the app: interrupted work is swept up and resumed before the address is given out.
  const answer = await fetch(`${own}${demandsPeople ? '/sign-in' : '/'}`).catch(fail);
  if (left.opsimeterStartFailure || answer.status >= 500) fail();
  if (demandsPeople && !left.opsimeterServer?.hasPeople()) fail(new Error(messages.nobodyThere));
  console.log(messages.isAt(`${scheme}://${name}`));
  for (const signal of ['SIGINT', 'SIGTERM'])
    process.once(signal, () => void end([server, ...(inside ? [inside] : [])]));
}

interface Door {
  settings: DoorSettings;
  bodies: OpenBodies;
  starting: Promise<Handle>;
  isDevelopment: boolean;
}

/** One request: whether it is for this app, from its own pages, from somebody who may ask it, and can be answered now. */
function letIn(door: Door, request: IncomingMessage, response: ServerResponse): void {
  const { settings, bodies, starting } = door;
  const path = pathOf(request.url ?? '');
  prepare(door, request, response);
  const sendAway = (status: number, text: string) =>
    response.writeHead(status, { 'Content-Type': 'text/plain', Connection: 'close' }).end(`${text}\n`);
  if (!isOurs(request, settings)) sendAway(403, messages.onlyOwnPages);
  else if (!isKnownMethod(request.method)) sendAway(405, messages.unknownMethod(request.method ?? ''));
  else if (path === undefined)
    refuse(request, response, new AppError('bad-request', { reason: messages.leadsNowhere }).toJSON(), { status: 400 });
  else if (!bodies.admit(request)) isNotNow(request, response, new AppError('too-busy', {}).toJSON());
  else
    void starting.then((handle) => {
      const problem = left.opsimeterServer?.problem();
      const isHealth = ['/api/health', '/api/metrics'].includes(path);
      if (problem && !isHealth) return isNotNow(request, response, problem);
      if (settings.demandsPeople && !isAdmitted(request, response, path)) return;
      return void handle(request, response);
    });
}

/** What is answered with everything, and what the app is told of a request by this process alone. */
function prepare({ settings, isDevelopment }: Door, request: IncomingMessage, response: ServerResponse): void {
  const nonce = randomBytes(16).toString('base64');
  const headers = securityHeaders(nonce, isDevelopment);
  for (const [name, value] of Object.entries(headers)) response.setHeader(name, value);
  if (settings.scheme === 'https') response.setHeader('Strict-Transport-Security', 'max-age=31536000');
  const id = randomUUID();
  response.setHeader('X-Request-Id', id);
  const forwarded = String(request.headers['x-forwarded-for'] ?? '')
    .split(',')
    .at(-1)
    ?.trim();
  for (const name of ['x-person', 'x-person-role']) delete request.headers[name];
  Object.assign(request.headers, {
    // From here Next.js, and the app's own layout, know which number scripts are to be named by.
    'content-security-policy': headers['Content-Security-Policy'],
    'x-nonce': nonce,
    'x-request-id': id,
    'x-scheme': settings.scheme,
    'x-client-address': (settings.isBehindProxy && forwarded) || request.socket.remoteAddress || '',
    'x-people': settings.demandsPeople ? '1' : '0',
  });
}

/** Lets in who may ask; answers everybody else: a page leads to where people sign in. */
function isAdmitted(request: IncomingMessage, response: ServerResponse, path: string): boolean {
  const { method = '', headers, url = '/' } = request;
  const { cookie, authorization } = headers;
  // The first request is what starts the app: until then there is nobody.
  if (!left.opsimeterServer && isForAll({ method, path })) return true;
  const admission = left.opsimeterServer?.gate.admit({ method, path, cookie, authorization });
  if (admission?.isIn) {
    if (admission.who !== '') {
      headers['x-person'] = encodeURIComponent(admission.who);
      headers['x-person-role'] = admission.role;
    }
    return true;
  }
  const error = admission?.error.toJSON() ?? new AppError('not-signed-in', {}).toJSON();
  const isPage = method === 'GET' && headers.accept?.includes('text/html');
  if (isPage && error.code === 'not-signed-in') {
    response.writeHead(303, { Location: `/sign-in?next=${encodeURIComponent(url)}`, Connection: 'close' }).end();
  } else {
    refuse(request, response, error, { status: error.code === 'not-signed-in' ? 401 : 403 });
  }
  return false;
}

/** What can't be answered now, and may be later. */
function isNotNow(request: IncomingMessage, response: ServerResponse, error: ErrorRecord): void {
  refuse(request, response, error, { status: 503, retryAfter: '5' });
}

/** In words for who sees a page, else as the API says it. */
function refuse(
  { method, headers }: IncomingMessage,
  response: ServerResponse,
  error: ErrorRecord,
  { status, retryAfter }: { status: number; retryAfter?: string },
): void {
  const isPage = method === 'GET' && headers.accept?.includes('text/html');
  const { happened, safe, todo } = error;
  // Of a server action, Next.js passes plain text on to the page that has asked, and nothing else.
  const isPlain = isPage || headers['next-action'] !== undefined;
  response
    .writeHead(status, {
      'Content-Type': isPlain ? 'text/plain' : 'application/json',
      ...(retryAfter ? { 'Retry-After': retryAfter } : {}),
      Connection: 'close',
    })
    .end(isPage ? `${[happened, safe, todo].filter(Boolean).join(' ')}\n` : JSON.stringify({ error }));
}

/** A port of this machine's own, where only what is signed is answered, and the page that shows nothing: who has signed in comes in by the door. */
async function listenInside(door: Door): Promise<Server> {
  const inside = createServer((request, response) => {
    const { port } = inside.address() as AddressInfo;
    const names = new Set([`${LOOPBACK}:${port}`]);
    letIn({ ...door, settings: { ...door.settings, names, scheme: 'http', isBehindProxy: false } }, request, response);
  });
  await listen(inside, 0, LOOPBACK);
  return inside;
}

/** Takes nothing more, has the app end what it does, and leaves; what is left by then is taken up by the next process. */
async function end(servers: readonly Server[]): Promise<never> {
  setTimeout(() => process.exit(0), ENDS_WITHIN_MS).unref();
  for (const server of servers) {
    server.close();
    server.closeAllConnections();
  }
  await left.opsimeterServer?.close().catch((error: unknown) => console.error(error));
  return process.exit(0);
}

function settingsOrEnd(): DoorSettings {
  try {
    return doorSettings(process.env);
  } catch (error) {
    return fail(error);
  }
}

/** Says why the app can't start, and ends: an address that answers nothing but errors helps nobody. */
function fail(error?: unknown): never {
  const known = left.opsimeterStartFailure;
  const reason = known
    ? [known.happened, known.todo].filter(Boolean).join(' ')
    : ((error as Error | undefined)?.message ?? messages.firstPageFailed);
  console.error(messages.couldNotStart(reason));
  return process.exit(1);
}

function listen(server: Server, port: number, host: string): Promise<void> {
  // A large file on a slow disk takes longer than a default request may.
  server.requestTimeout = 0;
  server.maxConnections = MOST_CONNECTIONS;
  return new Promise((resolve) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      const isTaken = error.code === 'EADDRINUSE';
      console.error(isTaken ? messages.portTaken(port) : messages.portUnusable(port, host, error.message));
      process.exit(1);
    });
    server.listen(port, host, resolve);
  });
}
