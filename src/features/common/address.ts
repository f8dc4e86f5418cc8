import { createLoader, createSerializer, parseAsArrayOf, parseAsFloat, parseAsString } from 'nuqs/server';
import type { StepName } from '@/core/treatment/treatment';

/**
 * What the address of a page says: which programme and spec, which specs are stacked over it, and where of the programme one
 * looks, in seconds. Read and written here only, by the server and in the browser.
 */
export const ADDRESS = {
  programme: parseAsString,
  spec: parseAsString,
  also: parseAsArrayOf(parseAsString),
  from: parseAsFloat,
  to: parseAsFloat,
  span: parseAsFloat,
  'span-to': parseAsFloat,
  /** A step of the treatment whose controls are opened. */
  step: parseAsString,
};

/** What the address of the specs page says: the spec, and what it is compared with (`id` or `id@version`). */
const SPECS_ADDRESS = { spec: parseAsString, with: parseAsString };

const LINE_UP_ADDRESS = { 'line-up': parseAsString };

const RECEIVERS_ADDRESS = { receiver: parseAsString };

export const loadAddress = createLoader(ADDRESS);
export const loadSpecsAddress = createLoader(SPECS_ADDRESS);
export const loadLineUpAddress = createLoader(LINE_UP_ADDRESS);
export const loadReceiversAddress = createLoader(RECEIVERS_ADDRESS);

/** Of the hand-over: all programmes together. */
export const ALL_PROGRAMMES = 'all';

type Stage = 'take-in' | 'measure-and-set' | 'line-up' | 'hand-over';

const serialize = createSerializer(ADDRESS);
const serializeSpecs = createSerializer(SPECS_ADDRESS);
const serializeLineUp = createSerializer(LINE_UP_ADDRESS);
const serializeReceivers = createSerializer(RECEIVERS_ADDRESS);

/** The address of a stage of a job. */
export function stageAddress(
  jobId: string,
  stage: Stage,
  shown: { programme?: string; spec?: string; also?: string[]; step?: StepName } = {},
): string {
  return serialize(`/jobs/${jobId}/${stage}`, shown);
}

export function specsAddress(spec: string, compared: string | null = null): string {
  return serializeSpecs('/specs', { spec, with: compared });
}

/** The address of a job's line-up, or with null of the first that there is. */
export function lineUpAddress(jobId: string, lineUpId: string | null): string {
  return serializeLineUp(`/jobs/${jobId}/line-up`, { 'line-up': lineUpId });
}

export function receiversAddress(receiver: string): string {
  return serializeReceivers('/receivers', { receiver });
}

export function lineAddress(lineId: string): string {
  return `/live/${lineId}`;
}
