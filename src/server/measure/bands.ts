import type { BandReport } from '@/core/inspection/third-octaves';
import { preparationOf, type Treatment } from '@/core/treatment/treatment';
import { encodeArrays } from '@/formats/array-bundle';
import type { ServerContext } from '../context';
import { quietly } from '../tasks/runner';
import { inTurn, preparedProgramme } from './limiting';

/** What a bundle of bands says beside its arrays. */
export type BandsMeta = Pick<BandReport, 'sampleRateHz' | 'blockFrames' | 'isWhole' | 'bandsHz'> & {
  belowBeforeDbfs: number;
  belowAfterDbfs: number;
};

/**
 * What each third of an octave holds in a stretch of a programme, as a bundle: `before` and `after` in dBFS by band, `startFrames` of the
 * blocks that were read, and of two channels `correlation` by block and `left`, `right` and `product` by band.
 *
 * @param stretch in frames of the treated programme
 */
export async function bandsOf(
  server: ServerContext,
  programmeId: string,
  treatment: Treatment,
  stretch: { startFrame: number; frames: number },
): Promise<Uint8Array> {
  const prepared = await preparedProgramme(server, programmeId, preparationOf(treatment));
  const { fileName, layoutId } = prepared;
  const { limit } = treatment;
  const source = await prepared.open();
  const limitingPath = limit && prepared.limitingPath(limit);
  const job = { kind: 'bands', source, fileName, layoutId, limitingPath, treatment, ...stretch } as const;
  const work = () => server.pool.run(job, quietly());
  const { before, after, pair, startFrames, correlation, ...meta } = await (limitingPath
    ? inTurn(limitingPath, work)
    : work());
  return encodeArrays({
    meta: { ...meta, belowBeforeDbfs: before.belowDbfs, belowAfterDbfs: after.belowDbfs } satisfies BandsMeta,
    arrays: { before: before.bandsDbfs, after: after.bandsDbfs, startFrames, correlation, ...pair },
  });
}
