import { existsSync, readFileSync } from 'node:fs';
import { isIP } from 'node:net';
import { doorMessages as messages } from './messages';

const DEFAULT_PORT = 4170;
const DEFAULT_HOST = '127.0.0.1';

/** Where the app is served, and to whom. */
export interface DoorSettings {
  host: string;
  port: number;
  /** What it answers to, as browsers name it: with the port, unless that is the usual one. */
  names: ReadonlySet<string>;
  scheme: 'http' | 'https';
  /** Of this process; null where there is none, or something in front of it ends it. */
  tls: { cert: Buffer; key: Buffer } | null;
  /** Something in front of this process says where requests come from. */
  isBehindProxy: boolean;
  /** Only who has signed in is let in. */
  demandsPeople: boolean;
}

type Env = Readonly<Record<string, string | undefined>>;

/** Loopback needs nothing. Whatever else it listens on demands names, TLS and people. Throws an error that says what is missing. */
export function doorSettings(env: Env, port = Number(env.PORT || DEFAULT_PORT)): DoorSettings {
  const host = env.OPSIMETER_LISTEN || DEFAULT_HOST;
  const isBehindProxy = env.OPSIMETER_PROXY === '1';
  const isLocal = isLoopback(host);
  const tls = tlsOf(env);
  const isOpen = !isLocal || isBehindProxy;
  const scheme = tls || isBehindProxy ? 'https' : 'http';
  const named = (env.OPSIMETER_NAMES ?? '')
    .split(',')
    .map((name) => name.trim().toLowerCase())
    .filter((name) => name !== '');
  if (isOpen && named.length === 0) throw new Error(messages.namesNeeded);
  if (isOpen && !tls && !isBehindProxy) throw new Error(messages.tlsNeeded);
  const own = isLocal && !isBehindProxy && named.length === 0 ? [`127.0.0.1:${port}`, `localhost:${port}`] : [];
  return {
    host,
    port,
    names: new Set([...own, ...named]),
    scheme,
    tls,
    isBehindProxy,
    demandsPeople: isOpen || env.OPSIMETER_PEOPLE === '1',
  };
}

function isLoopback(host: string): boolean {
  return host === 'localhost' || host === '::1' || (isIP(host) === 4 && host.startsWith('127.'));
}

function tlsOf({ OPSIMETER_TLS_CERT: cert, OPSIMETER_TLS_KEY: key }: Env): DoorSettings['tls'] {
  if (!cert && !key) return null;
  for (const path of [cert, key]) if (!path || !existsSync(path)) throw new Error(messages.tlsMissing(path ?? ''));
  return { cert: readFileSync(cert as string), key: readFileSync(key as string) };
}
