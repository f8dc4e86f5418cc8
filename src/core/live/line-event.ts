import { ALARMS, type AlarmKind } from './alarms/alarms';

/** What happens to a line beside alarms. Of a fault, the line is not what it should be. */
const OTHERS = [
  { kind: 'line-lost', name: 'Line lost', isFault: true },
  { kind: 'frames-lost', name: 'Frames lost', isFault: true },
  { kind: 'marker', name: 'Marker', isFault: false },
  { kind: 'on', name: 'On', isFault: false },
  { kind: 'off', name: 'Off', isFault: false },
  { kind: 'reset', name: 'Reset', isFault: false },
  { kind: 'paused', name: 'Paused', isFault: false },
  { kind: 'continued', name: 'Continued', isFault: false },
  { kind: 'recording', name: 'Recording', isFault: false },
] as const;

export type LineEventKind = AlarmKind | (typeof OTHERS)[number]['kind'];

/** Everything that a line's events may be, in the order in which they are shown. */
export const LINE_EVENTS: readonly { kind: LineEventKind; name: string; isFault: boolean }[] = [
  ...ALARMS.map(({ kind, name }) => ({ kind, name, isFault: true })),
  ...OTHERS,
];

/** Something that happened on a line, from one time of the clock to another. */
export interface LineEvent {
  id: number;
  kind: LineEventKind;
  startMs: number;
  /** Null while it goes on; the start itself of what takes no time. */
  endMs: number | null;
  words: string;
}

export function isFault(kind: LineEventKind): boolean {
  return LINE_EVENTS.some((own) => own.kind === kind && own.isFault);
}
