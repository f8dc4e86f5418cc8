import { AppError } from '@/core/errors/app-error';
import type { Manifest, ReceiverAnswer } from '@/core/receiver/manifest';
import type { Clock } from '../tasks/queue';
import { transportMessages as messages } from './messages';

/** What is to be sent, and where its files lie. */
export interface Parcel {
  manifest: Manifest;
  /** In the order of the manifest. */
  paths: readonly string[];
}

/** Where to, as it is used: absolute. */
export interface Destination {
  address: string;
  secret: string;
}

export interface TransportContext {
  signal: AbortSignal;
  clock: Clock;
  /** Bytes that have got there, of all files together. */
  onBytes: (bytes: number) => void;
}

/** What a transport is to the person who sets a receiver up. */
export interface TransportForm {
  kind: string;
  name: string;
  /** What happens, in a sentence. */
  words: string;
  /** A folder that this machine sees, or an address on a network. */
  place: 'folder' | 'address';
  placeholder: string;
  /** What is sent is signed with a secret that both ends know. */
  isSigned: boolean;
}

/**
 * A way to a receiver. Each call may be made again after any that failed or that nobody knows the end of: what is there
 * already is not brought twice.
 *
 * All throw `receiver-unreached` where another try may help, and `receiver-refuses` where none will.
 */
export interface Transport extends TransportForm {
  /** What is wrong with an address, for the person who typed it; undefined where nothing is. */
  addressProblem(address: string): string | undefined;
  /** The receiver fetches the files from this app, which has to be served for it. */
  isFetchedFrom: boolean;
  /** Brings all that is not there yet, and then says that it is whole. */
  bring(to: Destination, parcel: Parcel, context: TransportContext): Promise<void>;
  /** What the receiver says; undefined where it does not know of such a transfer. */
  answer(to: Destination, key: string, context: TransportContext): Promise<ReceiverAnswer | undefined>;
}

/** What a failed connection is called: its own words, without the address that it leads to. */
export function unreached(error: unknown): AppError {
  if (error instanceof AppError) return error;
  const { code, message, cause } = error as NodeJS.ErrnoException;
  const inner = cause as NodeJS.ErrnoException | undefined;
  const reason = inner?.code ?? inner?.message ?? code ?? message ?? String(error);
  return new AppError('receiver-unreached', { reason: WORDS[reason] ?? reason }, { cause: error });
}

const WORDS: Readonly<Record<string, string>> = {
  ECONNREFUSED: messages.nothingAnswers,
  ECONNRESET: messages.connectionLost,
  UND_ERR_SOCKET: messages.connectionLost,
  terminated: messages.connectionLost,
  ENOTFOUND: messages.unknownAddress,
  ETIMEDOUT: messages.tooSlow,
  UND_ERR_HEADERS_TIMEOUT: messages.tooSlow,
  UND_ERR_BODY_TIMEOUT: messages.tooSlow,
  ENOENT: messages.noFolder,
  EACCES: messages.notWritable,
  EROFS: messages.notWritable,
  ENOSPC: messages.diskFull,
};
