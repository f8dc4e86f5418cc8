import * as z from 'zod';
import { alarmSettings } from './alarms/alarms';
import { faultKinds } from './simulated/faults';

/** What may begin the address of a stream. */
export const STREAM_SCHEMES = ['http', 'https', 'rtp', 'srt', 'udp'] as const;

const streamAddress = z
  .string()
  .trim()
  .max(1000)
  .refine((address) => STREAM_SCHEMES.some((scheme) => address.startsWith(`${scheme}://`)), {
    message: `An address begins with ${STREAM_SCHEMES.map((scheme) => `${scheme}://`).join(', ')}`,
  })
  .refine((address) => URL.canParse(address), { message: 'This is no address' });

/** Where the sound of a line comes from. */
export const lineInput = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('stream'), address: streamAddress }),
  /** Of the machine that a browser runs on; what it is called there, or nothing for the usual one. */
  z.object({ kind: z.literal('input'), device: z.string().max(300).default('') }),
  z.object({ kind: z.literal('simulated'), faults: faultKinds.default([]) }),
]);

export type LineInput = z.infer<typeof lineInput>;
export type LineKind = LineInput['kind'];

/** Of a programme that a line carries, at most a day. */
const MOST_PLANNED_SECONDS = 86_400;

/** A line as a person sets it up. */
export const lineFields = z.object({
  name: z.string().trim().min(1, 'A line needs a name').max(80),
  input: lineInput,
  /** The job that its recordings are taken into. */
  jobId: z.string().min(1).max(64),
  /** What it is judged by; null for the spec of its job. */
  specId: z.string().min(1).max(64).nullable(),
  alarms: alarmSettings,
  /** Length of the programme that it carries, for the projection; null where nobody has said. */
  plannedSeconds: z.number().positive().max(MOST_PLANNED_SECONDS).nullable(),
});

export type LineFields = z.infer<typeof lineFields>;

/** Sound that has come is held for so long, in case a recording is to begin before it was asked for. */
export const PRE_ROLL_SECONDS = 30;

/** Whether sound comes from a line, as far as is known now. */
export const LINE_STATES = ['off', 'opening', 'sounding', 'lost'] as const;
export type LineState = (typeof LINE_STATES)[number];
