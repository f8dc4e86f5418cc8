import { AppError } from '@/core/errors/app-error';
import { NO_TAGS, parseIsrc } from '@/core/file-formats/tags';
import { isrcRun } from '@/core/lineup/codes';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { setTags } from '../deliveries/rows';
import { programmesWhere } from '../jobs/programme-view';
import { lineUpOf } from './line-ups';
import { isrcMessages as messages } from './messages';

export interface NumberedIsrc {
  programmeId: string;
  isrc: string;
  /** What it had before; empty where it had none. */
  was: string;
}

/**
 * Gives each programme of a line-up an ISRC, in order, numbered on from a first: all of them, or none.
 *
 * @throws AppError `not-found`, or `bad-request` where the first is no ISRC or there are not enough numbers behind it
 */
export function numberIsrcs(server: ServerContext, lineUpId: string, first: string): NumberedIsrc[] {
  const { members } = lineUpOf(server, lineUpId);
  const plain = parseIsrc(first);
  if (plain === undefined) throw new AppError('bad-request', { reason: messages.noIsrc(first) });
  let isrcs: string[];
  try {
    isrcs = isrcRun(plain, members.length);
  } catch (error) {
    throw new AppError('bad-request', { reason: messages.notEnough(plain, members.length) }, { cause: error });
  }
  return setIsrcs(
    server,
    members.map(({ programmeId }, i) => ({ programmeId, isrc: isrcs[i] as string })),
  );
}

/** Gives programmes ISRCs that are known to be some, or takes them away where they are empty. Throws `not-found`. */
export function setIsrcs(
  server: ServerContext,
  wanted: readonly { programmeId: string; isrc: string }[],
): NumberedIsrc[] {
  const ids = wanted.map(({ programmeId }) => programmeId);
  const rows = new Map(programmesWhere(server, among(programmes.id, ids)).map((row) => [row.programmes.id, row]));
  return server.db.transaction(
    () =>
      wanted.map(({ programmeId, isrc }) => {
        const tags = rows.get(programmeId)?.programmes.tags ?? NO_TAGS;
        setTags(server, programmeId, { ...tags, isrc });
        return { programmeId, isrc, was: tags.isrc };
      }),
    { behavior: 'immediate' },
  );
}
