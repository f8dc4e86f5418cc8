/** Every rendering of a file's audio definition (ADM), measured side by side. */
import type { AdmProgramme } from '@/core/adm/model';
import { RENDER_LAYOUTS, type RenderLayout } from '@/core/adm/render-layouts';
import { AppError, isAppError } from '@/core/errors/app-error';
import { checkRendered, openAdm, programmeNamed } from '@/workers/node/render-adm';
import type { FileReport } from '@/workers/protocol';
import type { Audio } from './audio';
import { type MeasuringOptions, measureAudio } from './measuring';
import { renderingMessages as messages } from './messages';
import { withRendered } from './rendering';

/** A rendering as it was measured. */
export interface MeasuredRendering {
  /** Null of a definition without programmes. */
  programme: Pick<AdmProgramme, 'id' | 'name'> | null;
  layout: RenderLayout;
  report: FileReport;
}

/** What was measured of a file's definition, and what could not be rendered. */
export interface MeasuredAdm {
  renderings: MeasuredRendering[];
  errors: AppError[];
}

/** Layouts as they are asked for, by commas. */
export function readRenderLayouts(text: string): RenderLayout[] {
  const layouts = text.split(',').map((name) => RENDER_LAYOUTS.find((own) => own === name.trim()));
  const known = layouts.filter((layout) => layout !== undefined);
  if (known.length === layouts.length && new Set(known).size === known.length) return known;
  throw new AppError('usage', { reason: messages.noLayouts(text, RENDER_LAYOUTS.join(', ')) });
}

/** Measures every programme of a file's definition, or one, for each layout. What cannot be rendered costs none of the others. */
export async function measureRenderings(
  file: string,
  layouts: readonly RenderLayout[],
  programmeId: string | undefined,
  options: MeasuringOptions,
): Promise<MeasuredAdm> {
  const adm = await openAdm(file, file);
  const { model } = adm.definition;
  const asked = programmeId === undefined ? model.programmes : [programmeNamed(model, file, programmeId)];
  const errors: AppError[] = [];
  const whole = (asked.length > 0 ? asked : [null]).filter((programme) => {
    try {
      checkRendered(model, programme?.id ?? null, adm.header.format.channels, file);
      return true;
    } catch (error) {
      if (!isAppError(error, 'adm-not-rendered')) throw error;
      errors.push(error);
      return false;
    }
  });
  const wanted = whole.flatMap((programme) =>
    layouts.map((layout) => ({ programme, layout, programmeId: programme?.id ?? null })),
  );
  const renderings: MeasuredRendering[] = [];
  await withRendered(file, adm, wanted, async (audios) => {
    for (const [i, { programme, layout }] of wanted.entries()) {
      const { report } = await measureAudio(audios[i] as Audio, options);
      renderings.push({ programme: programme && { id: programme.id, name: programme.name }, layout, report });
    }
  });
  return { renderings, errors };
}
