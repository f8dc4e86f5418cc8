import { AppError } from '@/core/errors/app-error';
import { mixAmong, type StemDifference, stemDifferences } from '@/core/lineup/stems/stems';
import type { AudioFormat } from '@/formats/audio-format';
import { statedOffsets } from '@/workers/node/stated-offsets';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes, type sources } from '../db/schema';
import { programmesWhere } from '../jobs/programme-view';
import { type LineUpView, lineUpOf } from '../line-ups/line-ups';
import { sourcePath } from '../take-in/reference';

/** A programme of a line-up of stems: the mix, or one of them. */
export interface Stem {
  programmeId: string;
  title: string;
  fileName: string;
  source: typeof sources.$inferSelect;
}

/** The stems of a line-up, in order, and their mix. */
export interface Stems {
  lineUp: LineUpView;
  /** Null where nobody has said which it is, and names do not tell. */
  mix: Stem | null;
  stems: Stem[];
}

/** Throws `not-found`. */
export function stemsOf(server: ServerContext, lineUpId: string): Stems {
  const lineUp = lineUpOf(server, lineUpId);
  const ids = lineUp.members.map(({ programmeId }) => programmeId);
  const rows = new Map(programmesWhere(server, among(programmes.id, ids)).map((row) => [row.programmes.id, row]));
  const members = ids.flatMap((programmeId): Stem[] => {
    const row = rows.get(programmeId);
    return row
      ? [{ programmeId, title: row.programmes.title, fileName: row.programmes.fileName, source: row.sources }]
      : [];
  });
  const stated = members.findIndex(({ programmeId }) => programmeId === lineUp.mixId);
  const at = stated >= 0 ? stated : mixAmong(members.map(({ title }) => title));
  return { lineUp, mix: members[at] ?? null, stems: members.filter((_, i) => i !== at) };
}

/** How the file of each stem differs from that of the mix. */
export function differencesOf(mix: Stem, stem: Stem): StemDifference[] {
  return stemDifferences(mix.source.format, stem.source.format);
}

/**
 * The stems of a line-up and their mix, where they can be compared.
 *
 * @throws AppError `not-found`, `not-measured`, `stem-differs`, or `no-mix`
 */
export function comparableStems(server: ServerContext, lineUpId: string): Stems & { mix: Stem } {
  const { lineUp, mix, stems } = stemsOf(server, lineUpId);
  if (!mix || stems.length === 0) throw new AppError('no-mix', { name: lineUp.name });
  for (const { title, source } of [mix, ...stems])
    if (!server.sourceReport(source.sha256)) throw new AppError('not-measured', { title });
  for (const stem of stems) {
    const blocking = differencesOf(mix, stem).find(({ isBlocking }) => isBlocking);
    if (blocking) throw new AppError('stem-differs', { title: stem.title, difference: blocking.text });
  }
  return { lineUp, mix, stems };
}

/** By how many frames each stem begins later than the mix, and whether files state that. Throws where a file is gone. */
export async function offsetsOf(
  server: ServerContext,
  mix: Pick<Stem, 'fileName' | 'source'>,
  stems: readonly Pick<Stem, 'fileName' | 'source'>[],
): Promise<{ offsetFrames: number[]; isTimed: boolean }> {
  const files = await Promise.all(
    [mix, ...stems].map(async ({ fileName, source }) => ({
      path: await sourcePath(server, source, fileName),
      fileName,
      format: source.format satisfies AudioFormat,
    })),
  );
  const offsets = await statedOffsets(files);
  return { offsetFrames: offsets?.slice(1) ?? stems.map(() => 0), isTimed: offsets !== null };
}
