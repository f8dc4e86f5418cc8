import { link, mkdir, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { BatchItem, BatchWish } from '@/core/batch/batch';
import { reviewFormat, reviewName, reviewTags } from '@/core/batch/review';
import { treatedProgramme } from '@/core/delivery/compose';
import { isAppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import { NO_TAGS } from '@/core/file-formats/tags';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { formatLevel } from '@/core/units/format';
import { deliveryLeftovers } from '@/workers/node/delivery-paths';
import { fileError } from '@/workers/node/file-bytes';
import { flush } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { deliverProgramme } from '../deliveries/deliver-programme';
import { factsOf, predict } from '../deliveries/predict';
import { newId } from '../ids';
import type { TaskContext } from '../tasks/runner';
import { performMessages as messages } from './messages';
import { rowLike } from './row-like';

/**
 * Writes a review copy: levels as a delivery for the spec would have, in a small file that says it is none, in a folder that no delivery
 * stands in. Nothing is put on the sheet, and nothing that was set is changed.
 *
 * @throws AppError as `predict` and `deliverProgramme`
 */
export async function writeReview(
  server: ServerContext,
  jobId: string,
  programmeId: string,
  { specId, maxReductionDb }: Extract<BatchWish, { kind: 'review' }>,
  context: TaskContext,
): Promise<Pick<BatchItem, 'state' | 'text' | 'file'>> {
  const { folder } = server;
  const plain = rowLike(jobId, programmeId, specId, maxReductionDb);
  const { programme, source, spec, treatment } = factsOf(server, plain);
  const asked = reviewFormat(treatedProgramme(treatment, source.format, plain.format));
  const { format, treatment: levels, landing } = await predict(server, { ...plain, format: asked });
  const { title } = programme;
  const extension = FILE_FORMATS[format.kind].extensions[0];
  const temporaryPath = folder.reviewPart(jobId, newId());
  await mkdir(dirname(temporaryPath), { recursive: true });
  try {
    const delivered = await deliverProgramme(
      server,
      {
        programme,
        source,
        temporaryPath,
        fileName: `${reviewName(title, 1)}.${extension}`,
        format,
        spec,
        tags: reviewTags(programme.tags ?? NO_TAGS, title),
        treatment: levels,
        landing,
        cover: programme.cover,
      },
      context,
    );
    const [file] = delivered.files;
    if (!file) throw new RangeError('a review copy has no file');
    const { readings } = delivered.report;
    const fileName = await placed(file.temporaryPath, (number) => {
      const name = `${reviewName(title, number)}.${extension}`;
      return { name, path: folder.review(jobId, name) };
    });
    const { measure = 'integrated' } = spec.loudness ?? {};
    const loudness = specLoudness(readings, spec) ?? readings.integratedLufs;
    const text = messages.review(
      formatLevel(loudness, measure === 'rms' ? 'dBFS' : 'LUFS'),
      formatLevel(readings.truePeakDbtp, 'dBTP'),
    );
    return { state: 'done', text, file: { fileName, sizeBytes: file.sizeBytes, sha256: file.sha256 } };
  } finally {
    for (const path of deliveryLeftovers(temporaryPath)) await rm(path, { force: true });
  }
}

/** Gives a file the first name that is free: a link fails where a rename would replace. */
async function placed(
  temporaryPath: string,
  nameOf: (number: number) => { name: string; path: string },
): Promise<string> {
  for (let number = 1; ; number++) {
    const { name, path } = nameOf(number);
    try {
      await link(temporaryPath, path);
      await flush(dirname(path));
      return name;
    } catch (error) {
      const told = fileError(error, name, 'not-writable');
      if (!isAppError(told, 'file-exists')) throw told;
    }
  }
}
