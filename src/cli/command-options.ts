/** What the commands are told on their line, read. */
import { type LabelledStart, typedTimeCode } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import { parseTrackLists } from '@/core/film/track-lists';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import { DOWNMIXES } from '@/core/treatment/downmixes';
import { mainMessages as messages } from './messages';

/** What every command may be told. */
export interface CommonOptions {
  json?: boolean;
  layout?: string;
  tracks?: string;
  downmix?: string;
  render?: string;
  audioProgramme?: string;
  asAdm?: boolean;
  spans?: string;
  timeCode?: string;
  sha256?: boolean;
  joined?: boolean;
  gap?: string;
  fromStart?: boolean;
  spec?: string;
  out?: string;
  float?: boolean;
  record?: string;
  data?: string;
  role?: string;
}

/** How files are measured, or what in their place. */
export async function commandOptions(options: CommonOptions) {
  return { ...measuringOptions(options), renderings: await renderingsOf(options) };
}

/** The renderings that are asked for. */
export async function renderingsOf({ render, audioProgramme, layout, tracks, downmix, spans }: CommonOptions) {
  if (render === undefined) {
    if (audioProgramme !== undefined) throw new AppError('usage', { reason: messages.isMissing('--render LAYOUTS') });
    return undefined;
  }
  const others = [layout, tracks, downmix, spans];
  if (others.some((other) => other !== undefined)) throw new AppError('usage', { reason: messages.renderingIsWhole });
  const { readRenderLayouts } = await import('./measure-renderings');
  return { layouts: readRenderLayouts(render), programmeId: audioProgramme };
}

export function measuringOptions({ layout, sha256, downmix, spans, timeCode }: CommonOptions) {
  const to = DOWNMIXES.find((own) => own === downmix);
  return { layoutId: layoutId(layout), hash: sha256 ?? false, downmix: to, spans, timeCode: startOf(timeCode) };
}

/** A time code that is set by hand, as `10:00:00:00@25`. */
function startOf(text: string | undefined): LabelledStart | undefined {
  if (text === undefined) return undefined;
  const [label, rate] = text.split('@');
  const typed = typedTimeCode.safeParse({ label, rate });
  if (!typed.success) throw new AppError('usage', { reason: messages.noTimeCode(text) });
  return typed.data;
}

/** Of each programme of a film, its tracks; one of nothing stated where none are asked for. */
export function programmesOf({ tracks }: CommonOptions): readonly (readonly number[] | undefined)[] {
  return tracks === undefined ? [undefined] : trackLists(tracks);
}

function trackLists(text: string): number[][] {
  const lists = parseTrackLists(text);
  if (lists) return lists;
  throw new AppError('usage', { reason: messages.noTracks(text) });
}

function layoutId(value: string | undefined): string | undefined {
  if (value === undefined || LAYOUT_IDS.some((id) => id === value)) return value;
  throw new AppError('usage', { reason: messages.unknownLayout(value, LAYOUT_IDS.join(', ')) });
}

export function someFiles(files: string[]): [string, ...string[]] {
  const [first, ...rest] = files;
  if (first === undefined) throw new AppError('usage', { reason: messages.noFile });
  return [first, ...rest];
}

export function onlyFile(files: string[], otherwise: string): string {
  const [file, ...more] = someFiles(files);
  if (more.length > 0) throw new AppError('usage', { reason: otherwise });
  return file;
}

export function required(value: string | undefined, name: string): string {
  if (value === undefined) throw new AppError('usage', { reason: messages.isMissing(name) });
  return value;
}
