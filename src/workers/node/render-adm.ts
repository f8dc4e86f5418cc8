/** What an audio definition (ADM) describes, rendered for loudspeakers. */
import { rm } from 'node:fs/promises';
import { basename } from 'node:path';
import { admMessages as messages } from '@/core/adm/messages';
import type { AdmModel, AdmProgramme } from '@/core/adm/model';
import { Renderer } from '@/core/adm/renderer';
import { type RenderItem, selectItems } from '@/core/adm/select-items';
import { AppError, isAppError } from '@/core/errors/app-error';
import { layoutNamed } from '@/core/loudness/channel-layout';
import { chunksOf, readChunk } from '@/formats/chunks';
import type { PcmHeader } from '@/formats/pcm-header';
import { PcmReader } from '@/formats/pcm-reader';
import { readAdm } from '@/formats/wav/adm';
import { type AdmLoudness, withMeasured } from '@/formats/wav/adm-loudness';
import type { AdmDefinition } from '@/formats/wav/adm-xml';
import { LOUDNESS_AT, loudnessFields, readBext } from '@/formats/wav/bext';
import { readWavHeader } from '@/formats/wav/header';
import { createWavWriter } from '@/formats/wav/writer';
import type { RenderedFile } from '../protocol';
import { FileSink, FileSource, patchFile } from './file-bytes';
import { ProgressReporter, type RunOptions } from './progress';

/** Samples that are rendered are written as float, so that nothing of them is lost or clipped. */
const RENDERED_DEPTH = 32;

/** A file with its audio definition. */
export interface AdmFile {
  header: PcmHeader;
  definition: AdmDefinition;
}

/**
 * Reads what a file says of itself, up to its samples.
 *
 * @throws AppError `no-adm` where it has no definition
 */
export async function openAdm(path: string, fileName: string): Promise<AdmFile> {
  const file = await FileSource.open(path, fileName);
  try {
    const header = await readWavHeader(file, fileName);
    const definition = header.format.container === 'RIFX' ? undefined : await readAdm(file, fileName);
    if (!definition) throw new AppError('no-adm', { fileName });
    return { header, definition };
  } catch (error) {
    throw isAppError(error, 'not-audio') ? new AppError('no-adm', { fileName }) : error;
  } finally {
    await file.close();
  }
}

/** A programme of a definition by its ID, or the only one or first; null of a definition without any. */
export function programmeNamed(model: AdmModel, fileName: string, id?: string): AdmProgramme | null {
  if (id === undefined) return model.programmes[0] ?? null;
  const found = model.programmes.find((own) => own.id === id.toUpperCase());
  if (found) return found;
  const known = model.programmes.map((own) => own.id).join(', ');
  throw new AppError('no-such-programme', { fileName, programme: id, known });
}

/**
 * States what was measured of a written file's programmes and contents in its definition, and flushes it.
 *
 * @param measured by ID
 */
export async function stampAdmLoudness(path: string, measured: ReadonlyMap<string, AdmLoudness>): Promise<void> {
  const fileName = basename(path);
  const file = await FileSource.open(path, fileName);
  try {
    for await (const chunk of chunksOf(file, true)) {
      if (chunk.id !== 'axml') continue;
      const body = await readChunk(file, chunk, chunk.bytes ?? 0);
      await patchFile(path, chunk.offset, withMeasured(body, measured, fileName));
    }
  } finally {
    await file.close();
  }
}

/**
 * Renders a file's programmes in one pass, each to a WAV of 32-bit float. The files are flushed to disk; whatever goes wrong, none is left.
 *
 * @throws AppError `adm-not-rendered` where a programme asks for what is not rendered
 */
export async function renderAdm(
  path: string,
  renderings: readonly RenderedFile[],
  { header, definition: { model } }: AdmFile,
  options: RunOptions & { fileName: string },
): Promise<void> {
  const { fileName } = options;
  const file = await FileSource.open(path, fileName);
  const sinks: FileSink[] = [];
  try {
    const reader = PcmReader.of(file, header);
    const { sampleRateHz, frames, channels } = header.format;
    const bext = await readBext(file, true);
    const outputs = [];
    for (const { programmeId, layout, outputPath } of renderings) {
      const items = checkRendered(model, programmeId, channels, fileName);
      const renderer = new Renderer(items, layout, sampleRateHz, frames);
      const sink = await FileSink.create(outputPath, fileName);
      sinks.push(sink);
      const writer = await createWavWriter(sink, {
        sampleRateHz,
        frames,
        channels: renderer.channels,
        channelMask: layoutNamed(layout)?.mask ?? 0,
        bitDepth: RENDERED_DEPTH,
        chunks: bext ? [{ id: 'bext', body: withoutStatedLoudness(bext) }] : [],
      });
      outputs.push({ renderer, writer });
    }
    const progress = new ProgressReporter(frames, sampleRateHz, options);
    for (let piece = await reader.next(); piece; piece = await reader.next()) {
      for (const { renderer, writer } of outputs) {
        await writer.write(renderer.process(piece.channels, piece.frames), piece.frames, 1);
      }
      progress.at(reader.frame);
    }
    if (reader.frame !== frames) throw new AppError('source-changed', { fileName });
    for (const { writer } of outputs) await writer.finish();
    for (const sink of sinks) await sink.finish();
  } catch (error) {
    for (const sink of sinks) await sink.abandon();
    for (const { outputPath } of renderings.slice(0, sinks.length)) await rm(outputPath, { force: true });
    throw error;
  } finally {
    await file.close();
  }
}

/** What a file's extension says of its own loudness is not that of a rendering. */
function withoutStatedLoudness(bext: Uint8Array): Uint8Array {
  const body = bext.slice();
  const fields = loudnessFields({
    integratedLufs: null,
    loudnessRangeLu: null,
    truePeakDbtp: null,
    maxMomentaryLufs: null,
    maxShortTermLufs: null,
  });
  if (body.length >= LOUDNESS_AT + fields.length) body.set(fields, LOUDNESS_AT);
  return body;
}

/**
 * The tracks of a programme of which everything is rendered.
 *
 * @param channels of the file
 * @throws AppError `adm-not-rendered`
 */
export function checkRendered(
  model: AdmModel,
  programmeId: string | null,
  channels: number,
  fileName: string,
): readonly RenderItem[] {
  const selection = selectItems(model, programmeId, channels);
  if (selection.notRendered.length === 0) return selection.items;
  const programme = model.programmes.find(({ id }) => id === programmeId)?.name ?? fileName;
  const reason = selection.notRendered.map((own) => messages.asks(own.where, messages.reasons[own.reason])).join('; ');
  throw new AppError('adm-not-rendered', { fileName, programme, reason });
}
