import * as z from 'zod';
import type { ChannelLayout } from '../../loudness/channel-layout';
import type { Spec } from '../../spec/spec';
import type { LineMoment } from '../line-meter';

/** A number that a person sets for an alarm. */
interface AlarmSetting {
  label: string;
  unit: 's' | 'dBFS' | 'dBTP' | 'LU';
  least: number;
  most: number;
  /** What it is until somebody sets it. */
  usual: number;
}

export const alarmDetailSchema = z.object({
  /** How far it went, in what its words speak of; null where there is no such number. */
  by: z.number().nullable(),
  /** Numbers of the channels that it is about; empty where it is about all of them. */
  channels: z.array(z.number()),
});

/** What an alarm is about, as far as it has gone. */
export type AlarmDetail = z.infer<typeof alarmDetailSchema>;

interface Judged<Own extends string> {
  settings: Readonly<Record<Own, number>>;
  spec: Spec;
  layout: ChannelLayout;
}

/** One kind of alarm: when its condition holds, what can be set of it, and its words. */
export interface Alarm<Kind extends string = string, Own extends string = string> {
  kind: Kind;
  name: string;
  /** When it comes, in a sentence. */
  words: string;
  /** Whether it is on until somebody sets it. */
  isUsual: boolean;
  /** Beside these, for how many `seconds` its condition must hold; where that is not among them, it comes at once. */
  settings: Readonly<Record<Own, AlarmSetting>>;
  /** Whether its condition holds in these 100 ms, and how far it goes; null where it does not. */
  holds(moment: LineMoment, judged: Judged<Own>): AlarmDetail | null;
  /** What is said of one. */
  say(detail: AlarmDetail, channelLabels: readonly string[]): string;
}

export const NO_DETAIL: AlarmDetail = { by: null, channels: [] };

/** States an alarm. */
export function alarm<Kind extends string, Own extends string>(own: Alarm<Kind, Own>): Alarm<Kind, Own> {
  return own;
}

/** What a person has set of one alarm: all that is left out is as usual. */
export function alarmSettingsSchema({ settings, isUsual }: Pick<Alarm, 'settings' | 'isUsual'>) {
  const numbers = Object.entries(settings).map(
    ([name, { label, unit, least, most, usual }]) =>
      [
        name,
        z
          .number(`${label} must be a number`)
          .min(least, `${label} can be ${least} ${unit} at least`)
          .max(most, `${label} can be ${most} ${unit} at most`)
          .default(usual),
      ] as const,
  );
  return z
    .object({
      isOn: z.boolean().default(isUsual),
      /** Told by a sound too, on whatever page shows the line. */
      isHeard: z.boolean().default(false),
      numbers: z.object(Object.fromEntries(numbers)).prefault({}),
    })
    .prefault({});
}

/** The names of channels by their numbers, for words. */
export function channelNames(channels: readonly number[], labels: readonly string[]): string {
  return channels.map((c) => labels[c] ?? String(c + 1)).join(', ');
}
