/** Renderings of a programme's audio definition (ADM), taken in as programmes of their own. */
import { rm } from 'node:fs/promises';
import * as z from 'zod';
import { admMessages } from '@/core/adm/messages';
import { admOutline, type OutlineNode } from '@/core/adm/outline';
import { RENDER_LAYOUTS, type RenderLayout } from '@/core/adm/render-layouts';
import { selectItems } from '@/core/adm/select-items';
import { AppError } from '@/core/errors/app-error';
import { type AdmFile, checkRendered, openAdm } from '@/workers/node/render-adm';
import type { ServerContext } from '../context';
import { newId } from '../ids';
import type { TaskContext } from '../tasks/runner';
import { type TaskView, taskView } from '../tasks/view';
import { titleFromFileName } from './file-name';
import { takeInRenderingsMessages as messages } from './messages';
import { programmeFile } from './programme-file';
import { takeInOwn } from './take-in';
import { partOf, partSubject, partsUnderWay } from './under-way';

/** Which renderings are to be taken in. */
export const renderingList = z
  .array(
    z.object({
      /** An audio programme by its ID; null of a definition without any. */
      audioProgramme: z.string().min(1).max(100).nullable().default(null),
      layout: z.enum(RENDER_LAYOUTS),
    }),
  )
  .min(1)
  .max(100);
type WantedRendering = z.infer<typeof renderingList>[number];

/** What a file's definition describes, and which of its programmes can be rendered. */
export interface DefinitionView {
  outline: OutlineNode[];
  /** One of no ID where the definition has none. */
  programmes: {
    id: string | null;
    name: string;
    /** Why it is not rendered; null where it can be. */
    notRendered: string | null;
  }[];
}

/** A rendering that is being made, or could not be. */
export interface RenderingView extends WantedRendering {
  task: TaskView;
}

/** No ID. */
const WHOLE = '-';

/** Throws `not-found`, `no-adm` or `adm-damaged`. */
export async function definitionOf(server: ServerContext, programmeId: string): Promise<DefinitionView> {
  const { header, definition } = (await openDefinition(server, programmeId)).adm;
  const { model } = definition;
  const { channels } = header.format;
  const known = model.programmes.map(({ id, name }) => ({ id, name }));
  return {
    outline: admOutline(model),
    programmes: (known.length > 0 ? known : [{ id: null, name: messages.whole }]).map((programme) => {
      const { notRendered } = selectItems(model, programme.id, channels);
      const reasons = notRendered.map(({ reason, where }) => admMessages.asks(where, admMessages.reasons[reason]));
      return { ...programme, notRendered: reasons.length > 0 ? reasons.join('; ') : null };
    }),
  };
}

/**
 * Has programmes of a definition rendered and taken in beside their file. Asked twice, it is done once.
 *
 * @throws AppError `not-found`, `no-adm`, `adm-damaged`, `no-such-programme` or `adm-not-rendered`
 */
export async function takeInRenderings(
  server: ServerContext,
  programmeId: string,
  wanted: readonly WantedRendering[],
): Promise<void> {
  const { fileName, adm } = await openDefinition(server, programmeId);
  for (const { audioProgramme } of wanted) checkWanted(adm, audioProgramme, fileName);
  for (const { audioProgramme, layout } of wanted) {
    server.queue.enqueue('rendering', partSubject(programmeId, `${audioProgramme ?? WHOLE} ${layout}`));
  }
  server.runner.wake();
}

/** Renders and takes in. Done again after a crash, it ends in the same state: the same bytes are there already. */
export async function performRendering(
  server: ServerContext,
  subjectId: string,
  { signal, onProgress }: TaskContext,
): Promise<void> {
  const { programmeId, part } = partOf(subjectId);
  const { audioProgramme, layout } = renderingOf(part);
  const { programme, fileName, path, adm } = await openDefinition(server, programmeId);
  const name = checkWanted(adm, audioProgramme, fileName);
  const outputPath = server.folder.incoming(newId());
  try {
    const renderings = [{ programmeId: audioProgramme, layout, outputPath }];
    await server.pool.run({ kind: 'render-adm', path, fileName, renderings }, { signal, onProgress });
    await takeInOwn(
      server,
      {
        jobId: programme.jobId,
        fileName: messages.fileName(titleFromFileName(fileName), name, layout),
        title: messages.title(programme.title, name, layout),
      },
      outputPath,
    );
  } finally {
    await rm(outputPath, { force: true });
  }
}

/** The renderings that are being made, or could not be, by programme. */
export function renderingsUnderWay(
  server: ServerContext,
  programmeIds: readonly string[],
): Map<string, RenderingView[]> {
  const open = partsUnderWay(server, 'rendering', programmeIds);
  return new Map(
    [...open].map(([id, parts]) => [
      id,
      parts.map(({ part, task }) => ({ ...renderingOf(part), task: taskView(task) })),
    ]),
  );
}

async function openDefinition(server: ServerContext, programmeId: string) {
  const { programme, path } = await programmeFile(server, programmeId);
  const { fileName } = programme;
  return { programme, fileName, path, adm: await openAdm(path, fileName) };
}

/** @returns the name of a programme that can be rendered; null of a whole definition without any */
function checkWanted({ header, definition: { model } }: AdmFile, id: string | null, fileName: string): string | null {
  const found = model.programmes.find((own) => own.id === id);
  if (!found && (id !== null || model.programmes.length > 0)) {
    const known = model.programmes.map((own) => own.id).join(', ');
    throw new AppError('no-such-programme', { fileName, programme: id ?? WHOLE, known });
  }
  checkRendered(model, id, header.format.channels, fileName);
  return found?.name ?? null;
}

function renderingOf(part: string): WantedRendering {
  const [id = WHOLE, layout] = part.split(' ');
  return { audioProgramme: id === WHOLE ? null : id, layout: layout as RenderLayout };
}
