'use server';

import { join } from 'node:path';
import * as z from 'zod';
import { type LabelledStart, typedTimeCode } from '@/core/delivery/start-time-code';
import { GROUP_KINDS, type GroupKind } from '@/core/lineup/name-groups';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import type { ProgrammeName } from '@/server/jobs/programme-list';
import { changeProgramme, removeProgramme, removeProgrammes } from '@/server/jobs/programmes';
import {
  likelyVersions,
  type ReplacedSettings,
  replacedSettings,
  replaceSource,
  undoReplacement,
} from '@/server/jobs/replace';
import { acceptProposal, type TakeInListing, takeInListing, takenInIds } from '@/server/jobs/take-in-list';
import { lineUpChosen } from '@/server/line-ups/proposals';
import { chooseTrack } from '@/server/measure/measure-source';
import { getServer } from '@/server/server';
import { listMedia, type MediaFolder, mediaPath } from '@/server/take-in/media';
import { type DefinitionView, definitionOf, renderingList, takeInRenderings } from '@/server/take-in/renderings';
import { type TakenIn, takeInByReference } from '@/server/take-in/take-in';
import * as timeCodes from '@/server/take-in/time-code';
import { metadataOfProgramme, type ProgrammeMetadata } from '@/server/take-in/time-code';
import { takeInTracks, trackLists } from '@/server/take-in/tracks';
import { type DescriptionChange, descriptionChange } from './description';

const id = z.string().min(1).max(64);
const ids = z.array(id).min(1).max(5000);
const sha = z.string().regex(/^[0-9a-f]{64}$/);

/** Takes another sound track of a source's file, counted from 1, and has it measured. */
export async function setTrack(sha256: string, track: number): Promise<ActionResult<null>> {
  return answer(async () => {
    await chooseTrack(getServer(), sha.parse(sha256), z.int().positive().max(1000).parse(track));
    return null;
  });
}

/** Puts sound tracks of a film together, and takes each list of them in as a programme beside it. */
export async function takeTracks(programmeId: string, lists: readonly number[][]): Promise<ActionResult<null>> {
  return answer(async () => {
    await takeInTracks(getServer(), id.parse(programmeId), trackLists.parse(lists));
    return null;
  });
}

/** What the audio definition of a programme's file describes. */
export async function definition(programmeId: string): Promise<ActionResult<DefinitionView>> {
  return answer(() => definitionOf(getServer(), id.parse(programmeId)));
}

/** Renders programmes of a definition, and takes each in beside its file. */
export async function takeRenderings(
  programmeId: string,
  renderings: z.input<typeof renderingList>,
): Promise<ActionResult<null>> {
  return answer(async () => {
    await takeInRenderings(getServer(), id.parse(programmeId), renderingList.parse(renderings));
    return null;
  });
}

/** What a programme's file carries beside its samples. */
export async function fileDetails(programmeId: string): Promise<ActionResult<ProgrammeMetadata>> {
  return answer(() => metadataOfProgramme(getServer(), id.parse(programmeId)));
}

/** Sets the time code of a programme's first frame; null for that of its file. */
export async function setTimeCode(programmeId: string, wanted: LabelledStart | null): Promise<ActionResult> {
  return answer(() => {
    timeCodes.setTimeCode(getServer(), id.parse(programmeId), typedTimeCode.nullable().parse(wanted));
    return undefined;
  });
}

/** Keeps what a person calls a programme, notes of it, and counts it to; an empty group is none, and what is left out stays. What another window has set since it was seen is not overwritten. */
export async function describeProgramme(
  programmeId: string,
  input: DescriptionChange,
  seen: DescriptionChange,
): Promise<ActionResult> {
  return answer(() => {
    changeProgramme(getServer(), id.parse(programmeId), groupOrNone(input), groupOrNone(seen));
    return undefined;
  });
}

function groupOrNone(input: DescriptionChange) {
  const { groupName, ...change } = descriptionChange.parse(input);
  return { ...change, ...(groupName === undefined ? {} : { groupName: groupName || null }) };
}

/** Takes a programme out of its job, or puts it back. */
export async function setRemoved(programmeId: string, isRemoved: boolean): Promise<ActionResult> {
  return answer(() => {
    removeProgramme(getServer(), id.parse(programmeId), z.boolean().parse(isRemoved));
    return undefined;
  });
}

/** Takes programmes out of their job, or puts them back. */
export async function setAllRemoved(programmeIds: readonly string[], isRemoved: boolean): Promise<ActionResult> {
  return answer(() => {
    removeProgrammes(getServer(), ids.parse(programmeIds), z.boolean().parse(isRemoved));
    return undefined;
  });
}

/** Programmes of a job that may be a new version of one of them: those whose names begin most alike come first. */
export async function replacementsOf(jobId: string, programmeId: string): Promise<ActionResult<ProgrammeName[]>> {
  return answer(() => likelyVersions(getServer(), id.parse(jobId), id.parse(programmeId)));
}

/** Gives a programme the source of another; answers with what was set before. */
export async function replaceProgramme(programmeId: string, byId: string): Promise<ActionResult<ReplacedSettings>> {
  return answer(() => replaceSource(getServer(), id.parse(programmeId), id.parse(byId)));
}

export async function undoReplace(
  programmeId: string,
  byId: string,
  settings: ReplacedSettings,
): Promise<ActionResult> {
  return answer(() => {
    undoReplacement(getServer(), id.parse(programmeId), id.parse(byId), replacedSettings.parse(settings));
    return undefined;
  });
}

/** The ids of everything that has come in, in the order in which it is listed. */
export async function idsInOrder(
  jobId: string,
  specId: string,
  listing: TakeInListing,
): Promise<ActionResult<string[]>> {
  return answer(() => takenInIds(getServer(), id.parse(jobId), id.parse(specId), takeInListing.parse(listing)));
}

/** Makes a line-up of programmes, in the order in which they are listed; answers with its id. */
export async function lineUpSelected(
  jobId: string,
  specId: string,
  order: TakeInListing['order'],
  programmeIds: readonly string[],
): Promise<ActionResult<string>> {
  return answer(() => {
    const whole = takeInListing.parse({ order });
    const selected = new Set(ids.parse(programmeIds));
    const listed = takenInIds(getServer(), id.parse(jobId), id.parse(specId), whole);
    return lineUpChosen(
      getServer(),
      jobId,
      listed.filter((own) => selected.has(own)),
    );
  });
}

/** Groups programmes of a job as their names suggest. */
export async function acceptGroup(jobId: string, kind: GroupKind, name: string): Promise<ActionResult> {
  return answer(() => {
    const group = z.object({ kind: z.enum(GROUP_KINDS), name: z.string().max(200) }).parse({ kind, name });
    acceptProposal(getServer(), id.parse(jobId), group);
    return undefined;
  });
}

const mediaInput = z.object({ root: z.int().nonnegative(), path: z.string().max(4096) });

/** What is in a folder of the server's own disk, below one that OPSIMETER_MEDIA names. */
export async function browseMedia(root: number, path: string): Promise<ActionResult<MediaFolder>> {
  return answer(() => {
    const place = mediaInput.parse({ root, path });
    return listMedia(place.root, place.path);
  });
}

/** Takes a file of the server's own disk in where it lies. */
export async function takeInMedia(
  jobId: string,
  root: number,
  folder: string,
  fileName: string,
): Promise<ActionResult<TakenIn>> {
  return answer(async () => {
    const place = mediaInput.parse({ root, path: join(folder, z.string().min(1).max(1000).parse(fileName)) });
    return takeInByReference(
      getServer(),
      { jobId: id.parse(jobId), fileName },
      await mediaPath(place.root, place.path),
    );
  });
}
