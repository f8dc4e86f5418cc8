import type { IncomingMessage } from 'node:http';
import type { DoorSettings } from './settings';

const METHODS = new Set(['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS']);

export const isKnownMethod = (method: string | undefined): boolean => method !== undefined && METHODS.has(method);

/**
 * Whether a request names this app, and comes from none but its own pages: a page elsewhere in the browser can neither rebind a host name to
 * it nor send it a form.
 */
export function isOurs(
  { method, headers, rawHeaders }: Pick<IncomingMessage, 'method' | 'headers' | 'rawHeaders'>,
  { names, scheme }: Pick<DoorSettings, 'names' | 'scheme'>,
): boolean {
  // One that says two names might be taken for either by what stands in between.
  const hosts = rawHeaders.filter((name, i) => i % 2 === 0 && name.toLowerCase() === 'host');
  if (hosts.length !== 1 || !names.has((headers.host ?? '').toLowerCase())) return false;
  const changes = method !== 'GET' && method !== 'HEAD';
  if (!changes || headers.origin === undefined) return true;
  const [prefix, origin] = [`${scheme}://`, headers.origin.toLowerCase()];
  return origin.startsWith(prefix) && names.has(origin.slice(prefix.length));
}

/**
 * The path of a request, decoded; undefined where it is none: what is written as % and two digits has to be UTF-8, and nothing in it may be read
 * as another path by who comes next.
 */
export function pathOf(url: string): string | undefined {
  const raw = url.split(/[?#]/, 1)[0] as string;
  if (!raw.startsWith('/') || raw.startsWith('//')) return undefined;
  try {
    const path = decodeURIComponent(raw);
    const isPlain = !/[\\\0]/.test(path) && !path.split('/').some((part) => part === '..' || part === '.');
    return isPlain ? path : undefined;
  } catch {
    return undefined;
  }
}
