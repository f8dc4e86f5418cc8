import * as z from 'zod';
import { type Alarm, alarmSettingsSchema } from './alarm';
import { channelLost } from './channel-lost';
import { hum } from './hum';
import { loudness } from './loudness';
import { mono } from './mono';
import { over } from './over';
import { silence } from './silence';

/** Every alarm of a line that sounds, in the order in which they are shown. A line that is lost is another: nothing is measured of it. */
const LIST = [over, loudness, silence, channelLost, mono, hum] as const;

export type AlarmKind = (typeof LIST)[number]['kind'];

export const ALARMS: readonly Alarm<AlarmKind>[] = LIST as never;

export function alarmOf(kind: AlarmKind): Alarm<AlarmKind> {
  return ALARMS.find((own) => own.kind === kind) as Alarm<AlarmKind>;
}

/** What is set of all alarms of a line. */
export const alarmSettings = z
  .object(
    Object.fromEntries(LIST.map((own) => [own.kind, alarmSettingsSchema(own)])) as Record<
      AlarmKind,
      ReturnType<typeof alarmSettingsSchema>
    >,
  )
  .prefault({});

export type AlarmSettings = z.infer<typeof alarmSettings>;
