import { catalogue, type ErrorCode, type ErrorDetails, type ErrorText } from './catalogue';

/**
 * The one error of the house: a literal code and the fields of its occasion.
 * What a person reads is in the catalogue, so that the words live in one place.
 */
export class AppError<C extends ErrorCode = ErrorCode> extends Error {
  override readonly name = 'AppError';

  constructor(
    readonly code: C,
    readonly details: ErrorDetails<C>,
    options?: { cause?: unknown },
  ) {
    super(sentence(textOf(code, details)), options);
  }

  get text(): ErrorText {
    return textOf(this.code, this.details);
  }

  toJSON(): ErrorRecord {
    return { code: this.code, ...this.text };
  }
}

/** An error as it is stored with a task and sent to a page. */
export interface ErrorRecord extends ErrorText {
  code: ErrorCode;
}

/** One of ours, also where it comes from a part of the app that was bundled by itself, with a class of its own. */
export function isAppError(error: unknown, code?: ErrorCode): error is AppError {
  if (!(error instanceof Error) || error.name !== 'AppError') return false;
  return code === undefined || (error as AppError).code === code;
}

/** What a file system and SQLite say where there is no room left, in our words. */
const NO_ROOM: Readonly<Record<string, string>> = {
  ENOSPC: 'the disk is full',
  EDQUOT: 'the disk quota is used up',
  EFBIG: 'a file is larger than this disk or user may hold',
  SQLITE_FULL: 'the disk is full',
  SQLITE_IOERR_WRITE: 'the disk is full, or fails',
  SQLITE_IOERR_FSYNC: 'the disk is full, or fails',
  SQLITE_IOERR_TRUNCATE: 'the disk is full, or fails',
  SQLITE_IOERR_SHMSIZE: 'the disk is full, or fails',
};

/** Any thrown value as an error of ours: a full disk and what is gone as such, whoever met it; what is not known is unexpected, with its own message kept. */
export function asAppError(error: unknown): AppError {
  if (isAppError(error)) return error;
  for (let cause = error; cause instanceof Error; cause = cause.cause) {
    const { code = '' } = cause as { code?: string };
    const reason = NO_ROOM[code];
    if (reason) return new AppError('disk-full', { reason }, { cause: error });
    // It was there when it was looked for, or nobody looked.
    if (code === 'SQLITE_CONSTRAINT_FOREIGNKEY') {
      return new AppError('not-found', { what: 'job, programme or file' }, { cause: error });
    }
  }
  const reason = error instanceof Error ? error.message : String(error);
  return new AppError('unexpected', { reason }, { cause: error });
}

/** Any thrown value as a record for people. */
export function toErrorRecord(error: unknown): ErrorRecord {
  return asAppError(error).toJSON();
}

function textOf<C extends ErrorCode>(code: C, details: ErrorDetails<C>): ErrorText {
  return (catalogue[code] as (d: ErrorDetails<C>) => ErrorText)(details);
}

function sentence(text: ErrorText): string {
  return [text.happened, text.safe, text.todo].filter(Boolean).join(' ');
}
