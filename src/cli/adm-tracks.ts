/** The tracks of an audio definition (ADM), written with their levels set by how the definition is rendered. */
import { rm } from 'node:fs/promises';
import type { RenderLayout } from '@/core/adm/render-layouts';
import { isAppError } from '@/core/errors/app-error';
import { type AdmLoudness, isStated } from '@/formats/wav/adm-loudness';
import { checkRendered, openAdm, stampAdmLoudness } from '@/workers/node/render-adm';
import { type RenderOptions, renderFile } from '@/workers/node/render-file';
import type { FileReport, RenderReport } from '@/workers/protocol';
import type { Audio } from './audio';
import { measureAudio } from './measuring';
import { withRendered } from './rendering';

/** A file whose tracks are written, and the rendering that its levels are set by. */
export interface TracksOf {
  path: string;
  layout: RenderLayout;
  /** Null of a definition without programmes. */
  programmeId: string | null;
}

/**
 * Writes the tracks with the gain of their rendering, and turned down as one by its gain reduction curve: what is rendered of them is the limited
 * rendering.
 *
 * @param renderingPath of the source, for the limiter
 */
export async function renderTracks(
  { path }: TracksOf,
  renderingPath: string,
  outputPath: string,
  options: RenderOptions & { limitingPath: string },
): Promise<RenderReport> {
  const limited = options.treatment.limit
    ? await limitRendering(renderingPath, `${outputPath}.rendered`, options)
    : null;
  const followed = limited?.corrections ?? undefined;
  const { header } = await openAdm(path, options.fileName ?? path);
  // A BW64 stays one, whatever its length.
  const container = header.format.container === 'BW64' ? 'BW64' : options.container;
  const written = await renderFile(path, outputPath, {
    ...options,
    container,
    historyPath: path,
    isTracks: true,
    followed,
  });
  return { ...written, reduction: limited?.reduction ?? null };
}

/** The limiter's curve, as it becomes once its rendering has been written with it. */
async function limitRendering(path: string, limitedPath: string, options: RenderOptions): Promise<RenderReport> {
  try {
    return await renderFile(path, limitedPath, { ...options, container: 'WAV', bitDepth: 32, onProgress: undefined });
  } finally {
    await rm(limitedPath, { force: true });
  }
}

/** Measures what is rendered of written tracks, and states it in their definition: of every programme, and of contents that stated theirs. */
export async function measureTracks(
  { layout, programmeId }: TracksOf,
  writtenPath: string,
  fileName: string,
): Promise<FileReport> {
  const adm = await openAdm(writtenPath, fileName);
  const { model, loudnessPlaces } = adm.definition;
  const { channels } = adm.header.format;
  const others = loudnessPlaces
    .filter((place) => isStated(place) && place.id !== programmeId)
    .filter(({ id }) => isRendered(() => checkRendered(model, id, channels, fileName)))
    .map(({ id }) => id);
  const parts = [programmeId, ...others];
  const renderings = parts.map((id) => ({ layout, programmeId: id }));
  return withRendered(writtenPath, adm, renderings, async (audios) => {
    const reports: FileReport[] = [];
    for (const audio of audios as Audio[]) reports.push((await measureAudio(audio)).report);
    const measured = new Map(
      parts.flatMap((id, i) => (id === null ? [] : [[id, loudnessOf(reports[i] as FileReport)]])),
    );
    await stampAdmLoudness(writtenPath, measured);
    return reports[0] as FileReport;
  });
}

function isRendered(check: () => unknown): boolean {
  try {
    check();
    return true;
  } catch (error) {
    if (isAppError(error, 'adm-not-rendered')) return false;
    throw error;
  }
}

function loudnessOf({ readings }: FileReport): AdmLoudness {
  const { integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs } = readings;
  return { integratedLufs, loudnessRangeLu, truePeakDbtp, maxMomentaryLufs, maxShortTermLufs };
}
