/** What an audio definition (ADM) describes, rendered and then measured or mastered as any other file. */
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RenderLayout } from '@/core/adm/render-layouts';
import { layoutNamed } from '@/core/loudness/channel-layout';
import type { AudioFormat } from '@/formats/audio-format';
import { peekHeader } from '@/workers/node/measure-file';
import { type AdmFile, checkRendered, openAdm, programmeNamed, renderAdm } from '@/workers/node/render-adm';
import type { Audio, WantedRendering } from './audio';

/** Opens a rendering's samples, which are there for as long as they are used. */
export async function withRendering<T>(
  file: string,
  { layout, programmeId }: WantedRendering,
  use: (audio: Audio) => Promise<T>,
): Promise<T> {
  const adm = await openAdm(file, file);
  const programme = programmeNamed(adm.definition.model, file, programmeId);
  return withRendered(file, adm, [{ layout, programmeId: programme?.id ?? null }], ([audio]) => use(audio as Audio));
}

/** The format of a rendering, before anything is rendered. */
export async function renderedFormat(file: string, { layout, programmeId }: WantedRendering): Promise<AudioFormat> {
  const { header, definition } = await openAdm(file, file);
  const programme = programmeNamed(definition.model, file, programmeId);
  checkRendered(definition.model, programme?.id ?? null, header.format.channels, file);
  return formatOf(header.format, layout);
}

/** Renders in one pass, and opens what was rendered. */
export async function withRendered<T>(
  file: string,
  adm: AdmFile,
  renderings: readonly { layout: RenderLayout; programmeId: string | null }[],
  use: (audios: readonly Audio[]) => Promise<T>,
): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const paths = renderings.map((_, i) => join(folder, `rendered-${i}.wav`));
    const written = renderings.map((rendering, i) => ({ ...rendering, outputPath: paths[i] as string }));
    await renderAdm(file, written, adm, { fileName: file });
    const audios: Audio[] = [];
    for (const [i, path] of paths.entries()) {
      const { layout } = renderings[i] as WantedRendering;
      audios.push({ file, path, header: await peekHeader(path, file), origin: formatOf(adm.header.format, layout) });
    }
    return await use(audios);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** A rendering is called what its file is, but for its channels. */
function formatOf(format: AudioFormat, layout: RenderLayout): AudioFormat {
  const { name = layout, mask = 0, channels = [] } = layoutNamed(layout) ?? {};
  return { ...format, channels: channels.length, channelMask: mask, layout: name };
}
