/** Invented lines for the demo, one of them with a logged day behind it. */
import { eq } from 'drizzle-orm';
import type * as z from 'zod';
import type { alarmSettings } from '@/core/live/alarms/alarms';
import type { LineInput } from '@/core/live/line';
import type { LineEventKind } from '@/core/live/line-event';
import type { LoggedSecond } from '@/core/live/second-log';
import { lines } from '@/server/db/schema';
import { noteEvent } from '@/server/lines/line-events';
import { writeSeconds } from '@/server/lines/line-log';
import { addLine } from '@/server/lines/lines';
import type { Server } from '@/server/server';
import { seededRandom } from './random';

interface DemoLine {
  name: string;
  input: LineInput;
  isOn: boolean;
  plannedSeconds: number | null;
  alarms?: z.input<typeof alarmSettings>;
  /** It was on for the last day. */
  hasDay?: true;
}

const DEMO_LINES: readonly DemoLine[] = [
  { name: 'Dome feed', input: { kind: 'simulated', faults: [] }, isOn: true, plannedSeconds: 55 * 60, hasDay: true },
  {
    name: 'Foyer speakers',
    input: { kind: 'simulated', faults: ['hum'] },
    isOn: true,
    plannedSeconds: null,
    alarms: { hum: { isOn: true } },
  },
  {
    name: 'Visitor radio',
    input: { kind: 'stream', address: 'http://127.0.0.1:8000/visitors.ogg' },
    isOn: false,
    plannedSeconds: null,
  },
];

const DAY_SECONDS = 86_400;
/** Of the day: what went wrong, when, and for how long. */
const DAY_FAULTS: readonly { kind: LineEventKind; atS: number; seconds: number; words: string }[] = [
  { kind: 'channel-lost', atS: 9_420, seconds: 34, words: 'channel R lost' },
  { kind: 'over', atS: 30_612, seconds: 1, words: '0.6 dB over the ceiling (L)' },
  { kind: 'silence', atS: 47_300, seconds: 95, words: 'silence' },
  { kind: 'line-lost', atS: 61_000, seconds: 412, words: 'line lost: nothing came from it for 10 s' },
  { kind: 'loudness', atS: 74_880, seconds: 140, words: 'short-term 9.4 LU over the target' },
];

/** Sets up the demo's lines. Those that are on are heard at the next start. */
export function seedLines(server: Server, jobId: string): void {
  for (const { name, input, isOn, plannedSeconds, alarms, hasDay } of DEMO_LINES) {
    const lineId = addLine(server, { name, input, jobId, specId: null, plannedSeconds, alarms });
    server.db.update(lines).set({ isOn }).where(eq(lines.id, lineId)).run();
    if (hasDay) seedDay(server, lineId);
  }
}

function seedDay(server: Server, lineId: string): void {
  const endS = Math.floor(server.clock.now() / 1000);
  const startS = endS - DAY_SECONDS;
  const random = seededRandom(24);
  const seconds: (LoggedSecond & { lineId: string })[] = [];
  let [phrase, momentary] = [0, 0];
  for (let second = 0; second < DAY_SECONDS; second++) {
    phrase += 0.02 * (-phrase + 60 * (random() - 0.5));
    momentary += 0.5 * (-momentary + 5 * (random() - 0.5));
    const fault = DAY_FAULTS.find(({ atS, seconds: length }) => second >= atS && second < atS + length);
    seconds.push({ lineId, ...secondOf(startS + second, phrase, momentary, fault?.kind) });
  }
  writeSeconds(server, seconds);
  for (const { kind, atS, seconds: length, words } of DAY_FAULTS) {
    const startMs = (startS + atS) * 1000;
    noteEvent(server, lineId, { kind, startMs, endMs: startMs + length * 1000, words });
  }
}

function secondOf(atS: number, phrase: number, momentary: number, fault: LineEventKind | undefined): LoggedSecond {
  const none = { momentaryLufs: null, shortTermLufs: null, truePeaksDbtp: [null, null] };
  const all = { atS, integratedLufs: -23 + 0.05 * phrase, loudnessRangeLu: 6, truePeakDbtp: -3 };
  if (fault === 'line-lost') {
    return { ...all, ...none, integratedLufs: null, loudnessRangeLu: null, truePeakDbtp: null, state: 'lost' };
  }
  if (fault === 'silence') return { ...all, ...none, state: 'under' };
  const shortTermLufs = -23 + phrase + (fault === 'loudness' ? 9.4 : 0);
  const peak = fault === 'over' ? -0.4 : Math.min(-2, shortTermLufs + momentary + 11);
  return {
    ...all,
    momentaryLufs: shortTermLufs + momentary,
    shortTermLufs,
    truePeaksDbtp: fault === 'channel-lost' ? [peak, null] : [peak, peak - 0.7],
    state: fault === 'over' || fault === 'loudness' ? 'over' : 'inside',
  };
}
