/**
 * Serves the app on loopback only, and answers only to its own name: a page elsewhere in the browser can neither
 * rebind a host name to it nor send it a form.
 */
import { createServer } from 'node:http';
import { fileURLToPath } from 'node:url';
import next from 'next';

const HOST = '127.0.0.1';
const DEFAULT_PORT = 4170;

const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS']);
/** What a line or an upload under way has to come to its end, once the app is to end. */
const ENDS_WITHIN_MS = 8000;

/** What a page may load and do: its own things only. Development evaluates code and listens on a socket besides. */
function securityHeaders(dev) {
  const policy = [
    "default-src 'self'",
    `script-src 'self' 'unsafe-inline'${dev ? " 'unsafe-eval'" : ''}`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    `connect-src 'self'${dev ? ' ws:' : ''}`,
    "base-uri 'self'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ];
  return {
    'X-Content-Type-Options': 'nosniff',
    'X-Frame-Options': 'DENY',
    'Referrer-Policy': 'no-referrer',
    'Content-Security-Policy': policy.join('; '),
  };
}

export async function serve({ dev = false, port = Number(process.env.PORT || DEFAULT_PORT) } = {}) {
  process.chdir(fileURLToPath(new URL('..', import.meta.url)));
  // What the app tells others to fetch from it, and where its own simulated intakes are.
  process.env.OPSIMETER_URL = `http://${HOST}:${port}`;
  const headers = Object.entries(securityHeaders(dev));
  const names = new Set([`${HOST}:${port}`, `localhost:${port}`]);
  // What comes while the app is starting waits: an upload that goes on would take a refusal for the loss of what arrived.
  let started;
  const starting = new Promise((resolve) => {
    started = resolve;
  });

  const server = createServer((request, response) => {
    for (const [name, value] of headers) response.setHeader(name, value);
    const refuse = (status, text) => response.writeHead(status, { 'Content-Type': 'text/plain' }).end(`${text}\n`);
    if (!isOurs(request, names)) refuse(403, 'Opsimeter answers only to pages of its own.');
    else if (!METHODS.has(request.method)) refuse(405, `${request.method} means nothing here.`);
    else if (!isAddress(request.url)) refuse(400, 'This is no address.');
    else starting.then((handle) => handle(request, response));
  });
  // A large file on a slow disk takes longer than a default request may.
  server.requestTimeout = 0;
  await listen(server, port);

  const app = next({ dev, hostname: HOST, port, dir: process.cwd() });
  await app.prepare().catch(fail);
  started(app.getRequestHandler());
  // The first request starts the app: interrupted work is swept up and resumed before the address is given out.
  const answer = await fetch(`http://${HOST}:${port}/`).catch(fail);
  if (globalThis.opsimeterStartFailure || answer.status >= 500) fail();
  console.log(`Opsimeter is at http://${HOST}:${port}`);
  for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => end(server));
}

/** Takes nothing more, has the app end what it does, and leaves; what is left by then is taken up by the next process. */
async function end(server) {
  setTimeout(() => process.exit(0), ENDS_WITHIN_MS).unref();
  server.close();
  server.closeAllConnections();
  await globalThis.opsimeterServer?.close().catch((error) => console.error(error));
  process.exit(0);
}

/** Says why the app can't start, and ends: an address that answers nothing but errors helps nobody. */
function fail(error) {
  const known = globalThis.opsimeterStartFailure;
  const reason = known
    ? [known.happened, known.todo].filter(Boolean).join(' ')
    : (error?.message ?? 'The first page failed.');
  console.error(`Opsimeter could not start. ${reason}`);
  process.exit(1);
}

function isOurs({ method, headers, rawHeaders }, names) {
  // One that says two names might be taken for either by what stands in between.
  const hosts = rawHeaders.filter((name, i) => i % 2 === 0 && name.toLowerCase() === 'host');
  if (hosts.length !== 1 || !names.has(headers.host ?? '')) return false;
  const changes = method !== 'GET' && method !== 'HEAD';
  return !changes || headers.origin === undefined || names.has(headers.origin.replace(/^http:\/\//, ''));
}

/** Whether the path of a request can be read: what is written as % and two digits has to be UTF-8. */
function isAddress(url) {
  try {
    decodeURIComponent(url.split('?', 1)[0]);
    return true;
  } catch {
    return false;
  }
}

function listen(server, port) {
  return new Promise((resolve) => {
    server.once('error', (error) => {
      const reason =
        error.code === 'EADDRINUSE'
          ? `Port ${port} is taken by another program (maybe Opsimeter is already running). Set PORT to another one: PORT=4171 npm run demo`
          : `Port ${port} on ${HOST} can not be used: ${error.message}`;
      console.error(reason);
      process.exit(1);
    });
    server.listen(port, HOST, resolve);
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await serve();
