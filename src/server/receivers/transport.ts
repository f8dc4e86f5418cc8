import { AppError } from '@/core/errors/app-error';
import type { Manifest, ReceiverAnswer } from '@/core/receiver/manifest';
import type { Clock } from '../tasks/queue';
import { transportMessages as messages } from './messages';

/** The files of one transfer: what is said of them, and where they lie. */
export interface TransferFiles {
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
  /** Bytes transferred so far, of all files together. */
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
 * How files are transferred to a receiver. Each call may be repeated after one that failed or was interrupted: what has
 * arrived already is not transferred twice.
 *
 * All throw `receiver-unreached` where another try may help, and `receiver-refuses` where none will.
 */
export interface Transport extends TransportForm {
  /** What is wrong with an address, for the person who typed it; undefined where nothing is. */
  addressProblem(address: string): string | undefined;
  /** The receiver fetches the files from this app, which has to be served for it. */
  isFetchedFrom: boolean;
  /** Transfers what has not arrived yet, then says that all of it has. */
  transfer(to: Destination, files: TransferFiles, context: TransportContext): Promise<void>;
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
