import * as z from 'zod';
import { someOf } from '../schema/some-of';
import { rescaledSteps, type Treatment, treatmentFields, treatmentSchema } from '../treatment/treatment';
import { templateMessages as messages } from './messages';
import { type SetRow, setRowSchema } from './row';

/** The gain is found for each programme, and where it is trimmed is its own. */
const { gainDb: _gain, trim: _trim, ...steps } = treatmentFields.shape;
const stepsSchema = someOf(z.object(steps));
type TemplateSteps = z.infer<typeof stepsSchema>;

/** What of a template is not rows: steps of the treatment, and how files are named. */
export const templateSettings = z.object({
  /** What is left out stays as a programme has it; null for nothing. */
  treatment: stepsSchema.nullable().default(null),
  /** That lengths of these steps are counted at. */
  sampleRateHz: z.int().min(8000).max(384_000).default(48_000),
  /** Null where a job's own names stay. */
  nameTemplate: z.string().min(1).max(200).nullable().default(null),
});
export type TemplateSettings = z.infer<typeof templateSettings>;

const templateFields = templateSettings.extend({
  name: z.string().trim().min(1).max(80),
  rows: z.array(setRowSchema).min(1).max(100),
});
/** How programmes are brought to be delivered, for any of them. */
export type Template = z.infer<typeof templateFields>;

/** A template as a file: open, and the same for everybody. */
export const templateFile = templateFields.extend({
  format: z.literal('opsimeter-template'),
  version: z.literal(1),
});
export type TemplateFile = z.input<typeof templateFile>;

export function fileOfTemplate({ name, rows, treatment, sampleRateHz, nameTemplate }: Template): TemplateFile {
  return { format: 'opsimeter-template', version: 1, name, rows, treatment, sampleRateHz, nameTemplate };
}

/** The steps of a treatment that are on, for other programmes: without its gain and trim, and where room tone was found. */
export function stepsForOthers(treatment: Treatment): TemplateSteps {
  const off = treatmentSchema.parse({ gainDb: 0 });
  const { gainDb: _gainDb, trim: _ownTrim, ...own } = treatment;
  const anywhere = <T extends Treatment['paddingStart']>(padding: T) => {
    if (!padding) return padding;
    const { toneStartFrame: _place, ...kept } = padding;
    return kept;
  };
  const kept = { ...own, paddingStart: anywhere(own.paddingStart), paddingEnd: anywhere(own.paddingEnd) };
  const isOn = ([name, value]: [string, unknown]) =>
    JSON.stringify(value) !== JSON.stringify(off[name as keyof Treatment]);
  return stepsSchema.parse(Object.fromEntries(Object.entries(kept).filter(isOn)));
}

/**
 * The steps of a template for a programme: lengths keep their time.
 *
 * @param writtenHz rate that the programme is written at
 */
export function stepsFor({ treatment, sampleRateHz }: TemplateSettings, writtenHz: number): TemplateSteps {
  if (!treatment) return {};
  const whole = treatmentSchema.parse({ gainDb: 0, ...treatment });
  const scaled = { ...whole, ...rescaledSteps(whole, (treatment.resampleHz ?? writtenHz) / sampleRateHz) };
  const names = Object.keys(treatment) as (keyof TemplateSteps)[];
  return Object.fromEntries(names.map((name) => [name, scaled[name]]));
}

/** A row that is solved for its spec. */
function solved(
  specId: string,
  format: Partial<SetRow['format']> & Pick<SetRow['format'], 'kind'>,
  maxReductionDb: number,
): SetRow {
  return setRowSchema.parse({ specId, format, levelMode: { kind: 'solved', maxReductionDb } });
}

/** Templates to begin with. What they ask for is common practice (no source), but for the specs, which name theirs. */
export const STARTERS: readonly (Template & { id: string })[] = [
  {
    id: 'starter-podcast',
    name: messages.podcast,
    rows: [solved('podcast-stereo', { kind: 'mp3', bitRateKbps: 128, sampleRateHz: 44_100 }, 6)],
    treatment: { removeDc: true },
  },
  {
    id: 'starter-broadcast',
    name: messages.broadcast,
    rows: [solved('ebu-r128', { kind: 'wav', bitDepth: 24, sampleRateHz: 48_000 }, 0)],
    treatment: null,
  },
  {
    id: 'starter-audiobook',
    name: messages.audiobook,
    rows: [solved('audiobook-retail', { kind: 'mp3', bitRateKbps: 192, sampleRateHz: 44_100, arrangement: 'mono' }, 9)],
    treatment: { removeDc: true },
  },
  {
    id: 'starter-record',
    name: messages.record,
    rows: [
      solved('streaming-music', { kind: 'flac', bitDepth: 24 }, 3),
      setRowSchema.parse({
        specId: 'cd-master',
        format: { kind: 'wav', bitDepth: 16, sampleRateHz: 44_100 },
        levelMode: { kind: 'as-set' },
      }),
    ],
    treatment: null,
  },
].map((own) => ({ ...own, ...templateSettings.parse({ treatment: own.treatment }) }));
