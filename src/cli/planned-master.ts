/** What a job file asks of one file, with everything that can be told of it before a byte is written. */
import { probe } from '@/codecs/probe';
import { deliveredTreatment, treatedProgramme } from '@/core/delivery/compose';
import { type DeliveryFormat, formatProblems, type ResolvedFormat, resolveFormat } from '@/core/delivery/format';
import type { LevelMode } from '@/core/delivery/row';
import { AppError, isAppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { Spec } from '@/core/spec/spec';
import { USUAL_LIMITER } from '@/core/treatment/steps/limit';
import type { Treatment } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import { peekHeader } from '@/workers/node/measure-file';
import { checkCover } from './covers';
import { admOf } from './master-command';
import type { MasterOptions } from './master-options';
import type { MeasuringOptions } from './measuring';
import { renderedFormat } from './rendering';

/**
 * Plans a file as a row of a sheet would be written.
 *
 * @throws AppError `format-impossible`, or what reading a header throws
 */
export async function plannedMaster(
  file: string,
  asked: {
    spec: Spec;
    format: DeliveryFormat;
    levelMode: LevelMode;
    treatment: Treatment;
    tags: MasterOptions['tags'];
    cover: MasterOptions['cover'];
  },
  { layoutId, rendering }: Pick<MeasuringOptions, 'layoutId' | 'rendering'>,
): Promise<{ source: AudioFormat; format: ResolvedFormat; wanted: MasterOptions }> {
  const { spec, levelMode, treatment, tags, cover } = asked;
  await checkCover(cover);
  const source = rendering ? await renderedFormat(file, rendering) : await sourceFormat(file, layoutId);
  const treated = treatedProgramme(treatment, source, asked.format);
  const [problem] = formatProblems(asked.format, treated);
  if (problem) throw new AppError('format-impossible', { problem: problem.text, nearest: problem.nearestText });
  const format = resolveFormat(asked.format, treated);
  const delivered = deliveredTreatment(treatment, format, source.sampleRateHz);
  // Nothing is left to sum up of what is mono already.
  const composed = source.channels === 2 ? delivered : { ...delivered, mix: treatment.mix };
  const wanted: MasterOptions = {
    spec:
      levelMode.kind === 'solved'
        ? { ...spec, peak: { ...spec.peak, ceiling: spec.peak.ceiling - levelMode.marginDb } }
        : spec,
    gainDb: levelMode.kind === 'as-set' ? composed.gainDb : null,
    maxReductionDb: levelMode.kind === 'as-set' ? (composed.limit ? 1 : 0) : levelMode.maxReductionDb,
    // The steps ahead have brought it to its rate and channels.
    format: {
      ...asked.format,
      sampleRateHz: null,
      arrangement: format.arrangement === 'split' ? 'split' : 'interleaved',
    },
    treatment: { ...composed, gainDb: 0, limit: null },
    limit: { ...USUAL_LIMITER, ...composed.limit },
    tags,
    cover,
  };
  return { source, format, wanted };
}

/** A file's format by its header alone, with the layout that was chosen by hand. */
export async function sourceFormat(file: string, layoutId: string | undefined): Promise<AudioFormat> {
  const header = await peekHeader(file, file).catch((error) => {
    if (!isAppError(error, 'not-audio')) throw error;
  });
  const format = header?.format ?? (await probe(file, file)).format;
  const adm = header && (await admOf(file, header.format));
  return {
    ...format,
    layout: channelLayout(format.channels, format.channelMask, layoutId).name,
    ...(adm ? { adm } : {}),
  };
}
