import { AppError } from '@/core/errors/app-error';
import type { Transport, TransportForm } from './transport';
import { dropFolder } from './transports/drop-folder';
import { putObjects } from './transports/put';
import { webHook } from './transports/web-hook';

/** Every transport, in the order in which they are offered. */
export const TRANSPORTS: readonly Transport[] = [dropFolder, webHook, putObjects];

/** Throws `not-found`. */
export function transportOf(kind: string): Transport {
  const transport = TRANSPORTS.find((own) => own.kind === kind);
  if (!transport) throw new AppError('not-found', { what: 'transport' });
  return transport;
}

/** What pages and docs are told of each. */
export function transportForms(): TransportForm[] {
  return TRANSPORTS.map(({ kind, name, words, place, placeholder, isSigned }) => ({
    kind,
    name,
    words,
    place,
    placeholder,
    isSigned,
  }));
}
