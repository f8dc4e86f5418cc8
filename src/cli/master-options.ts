import { readFileSync } from 'node:fs';
import type { FileTags } from '@/codecs/tag';
import { type DeliveryFormat, deliveryFormatSchema, possibleRate } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS, FILE_KINDS, kindOfName, RATE_MODES } from '@/core/file-formats/file-formats';
import { type Tags, tagsSchema } from '@/core/file-formats/tags';
import type { Loudspeaker } from '@/core/loudness/channel-layout';
import { SPECS, specById } from '@/core/spec/catalogue';
import { type Spec, specSchema } from '@/core/spec/spec';
import { MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { GAIN_LIMIT_DB } from '@/core/treatment/steps/gain';
import { type Limit, readLimiter } from '@/core/treatment/steps/limit';
import { readRateHz } from '@/core/treatment/steps/resample';
import { readTreatment, type Treatment } from '@/core/treatment/treatment';
import { WRITTEN_DEPTHS } from '@/formats/pack';
import { coverAt } from './covers';
import type { Flags } from './flags';
import { masterOptionsMessages as messages } from './messages';

export interface MasterOptions {
  spec: Spec;
  /** Instead of one that is worked out. */
  gainDb: number | null;
  maxReductionDb: number;
  /** Of the file that is written; its rate and channels are those of the treatment. */
  format: DeliveryFormat;
  /** Every step but gain and limiter, which are worked out. */
  treatment: Treatment;
  limit: Omit<Limit, 'ceilingDbtp'>;
  /** What the file is to say of itself. */
  tags: Tags;
  cover: FileTags['cover'];
}

/** What of a file its options are read by. */
export interface SourceFacts {
  /** In whose frames times are counted. */
  sampleRateHz: number;
  /** What its channels are for, in their order; undefined where nobody knows. */
  loudspeakers: readonly Loudspeaker[] | undefined;
}

const PREMASTER_SPEC = 'premaster';

/**
 * @param outputPath whose extension says what is written
 * @throws AppError `usage`
 */
export function masterOptions(
  flags: Flags,
  { sampleRateHz, loudspeakers }: SourceFacts,
  outputPath: string,
): MasterOptions {
  const spec = specOf(flags);
  const ceiling = flags.number('ceiling', -12, 0);
  const isPremaster = flags.isOn('premaster');
  const maxReductionDb = flags.number('max-reduction', 0, MOST_REDUCTION_DB) ?? 0;
  if (isPremaster && (maxReductionDb > 0 || flags.text('dither') !== null || flags.text('gain') !== null)) {
    throw new AppError('usage', {
      reason: messages.premasterHasNoLimiter,
    });
  }
  const format = formatOf(flags, outputPath);
  return {
    spec: ceiling === null ? spec : { ...spec, peak: { ...spec.peak, ceiling } },
    gainDb: flags.number('gain', -GAIN_LIMIT_DB, GAIN_LIMIT_DB),
    maxReductionDb,
    format,
    treatment: readTreatment(flags, {
      sourceHz: sampleRateHz,
      loudspeakers,
      // A kind that is not written at the source's rate is written at the one that loses least, unless one is asked for.
      writtenHz: readRateHz(flags) ?? possibleRate(format.kind, sampleRateHz) ?? sampleRateHz,
    }),
    limit: readLimiter(flags),
    tags: tagsOf(flags),
    cover: coverOf(flags),
  };
}

function coverOf(flags: Flags): FileTags['cover'] {
  const path = flags.text('cover');
  return path === null ? null : coverAt(path);
}

function tagsOf(flags: Flags): Tags {
  const stated = Object.keys(tagsSchema.shape).map((name) => [name, flags.text(name) ?? undefined]);
  const parsed = tagsSchema.safeParse(Object.fromEntries(stated));
  if (parsed.success) return parsed.data;
  throw new AppError('usage', { reason: parsed.error.issues[0]?.message ?? messages.badTag });
}

/** By the extension of what is to be written, with what is said beside it. */
function formatOf(flags: Flags, outputPath: string): DeliveryFormat {
  const kind = kindOfName(outputPath);
  if (!kind) {
    const known = FILE_KINDS.map((own) => `.${FILE_FORMATS[own].extensions[0]}`);
    throw new AppError('usage', { reason: messages.unknownExtension([...new Set(known)].join(', ')) });
  }
  const bits = flags.choice('bits', WRITTEN_DEPTHS.map(String), null);
  return deliveryFormatSchema.parse({
    kind,
    bitDepth: bits === null ? null : Number(bits),
    bitRateKbps: flags.number('bitrate', 8, 1024),
    mode: flags.choice('mode', RATE_MODES, null),
    hasLoudnessTags: flags.isOn('loudness-tags'),
    withoutAdm: flags.isOn('without-adm'),
  });
}

function specOf(flags: Flags): Spec {
  const [file, spec] = [flags.text('spec-file'), flags.text('spec')];
  if (file !== null) return specFromFile(file);
  if (spec !== null) return specById(spec);
  if (flags.isOn('premaster')) return specById(PREMASTER_SPEC);
  throw new AppError('usage', { reason: messages.specIsMissing(SPECS.map(({ id }) => id).join(', ')) });
}

function specFromFile(file: string): Spec {
  try {
    return specSchema.parse(JSON.parse(readFileSync(file, 'utf8')));
  } catch (error) {
    throw new AppError('usage', { reason: messages.unreadableSpec(file) }, { cause: error });
  }
}
