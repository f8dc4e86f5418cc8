/** A day of a line in a few seconds: what is measured of each 100 ms goes through readings, alarms and log as it does in real time. */
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { AlarmWatch } from '@/core/live/alarm-watch';
import { type AlarmKind, alarmOf, alarmSettings } from '@/core/live/alarms/alarms';
import type { LineMoment } from '@/core/live/line-meter';
import { type LoggedSecond, SecondLog } from '@/core/live/second-log';
import { channelLayout } from '@/core/loudness/channel-layout';
import { lufsToPower } from '@/core/loudness/gating';
import { LiveTally } from '@/core/loudness/live-meter';
import { specById } from '@/core/spec/catalogue';
import { amplitudeToDb } from '@/core/units/decibel';
import { reportOf, reportPdf, reportSvg } from '@/server/lines/day-report';
import { noteEvent } from '@/server/lines/line-events';
import { readLog, writeSeconds } from '@/server/lines/line-log';
import { addLine } from '@/server/lines/lines';
import { TestServer } from '../fixtures/server';

setFlagsFromString('--expose_gc');
const collectGarbage = runInNewContext('gc') as () => void;

const RATE = 48_000;
const DAY_SECONDS = 86_400;
/** A whole second of the clock, in November 2026. */
const START_S = 1_795_000_000;
const SPEC = specById('ebu-r128');
const SETTINGS = alarmSettings.parse({ mono: { isOn: true }, hum: { isOn: true } });
const STEREO = channelLayout(2);

interface Fault {
  kind: AlarmKind;
  atS: number;
  seconds: number;
  /** Loudness, true peaks in dBTP, side and hum while it lasts. */
  makes: { lufs?: number; peaks?: [number, number]; sideDb?: number; humDbfs?: number };
}

const FAULTS: readonly Fault[] = [
  { kind: 'silence', atS: 3_600, seconds: 95, makes: { lufs: -120, peaks: [-120, -120] } },
  { kind: 'channel-lost', atS: 20_000, seconds: 12, makes: { peaks: [-14, -110] } },
  { kind: 'over', atS: 40_000.3, seconds: 0.2, makes: { peaks: [-0.2, -4] } },
  { kind: 'loudness', atS: 50_000, seconds: 60, makes: { lufs: -11 } },
  { kind: 'mono', atS: 60_000, seconds: 45, makes: { sideDb: -120 } },
  { kind: 'hum', atS: 80_000, seconds: 30, makes: { humDbfs: -48 } },
];

interface Told {
  kind: AlarmKind;
  startS: number;
  endS: number;
  words: string;
}

/** Has a day go by; returns what was told, and hands on what is logged. */
function aDay(faults: readonly Fault[], onSeconds: (seconds: LoggedSecond[]) => void): Told[] {
  const tally = new LiveTally(RATE, { isEndless: true });
  const watch = new AlarmWatch(SPEC, SETTINGS, STEREO);
  const log = new SecondLog(START_S * 1000, SPEC, SETTINGS);
  const told: Told[] = [];
  const ticks = new Float64Array(10);
  let random = 7;
  const next = () => {
    random = (Math.imul(random, 1_103_515_245) + 12_345) & 0x7fffffff;
    return random / 0x7fffffff - 0.5;
  };
  let phrase = 0;
  for (let bin = 0; bin < DAY_SECONDS * 10; bin++) {
    const seconds = bin / 10;
    phrase += 0.004 * (-phrase + 30 * next());
    const fault = faults.find(({ atS, seconds: length }) => seconds >= atS - 1e-6 && seconds < atS + length - 1e-6);
    const {
      lufs = -23 + Math.max(-4, Math.min(4, phrase)),
      peaks = [-13, -14],
      sideDb = -12,
      humDbfs = null,
    } = fault?.makes ?? {};
    const power = lufsToPower(lufs);
    ticks.fill((power * RATE) / 100);
    const truePeaks = peaks.map((peak) => 10 ** ((peak + next()) / 20));
    tally.add({ weightedPower: power, ticks, truePeaks, endFrame: (bin + 1) * 4800 });
    const readings = tally.read();
    const moment: LineMoment = {
      bin,
      isWhole: true,
      readings,
      truePeaksDbtp: truePeaks.map(amplitudeToDb),
      sideDb,
      humDbfs,
    };
    for (const { kind, startBin, endBin, detail } of watch.add(moment)) {
      if (endBin === null) continue;
      told.push({ kind, startS: startBin / 10, endS: endBin / 10, words: alarmOf(kind).say(detail, ['L', 'R']) });
    }
    const logged = log.add(moment, START_S * 1000 + bin * 100);
    if (logged.length > 0) onSeconds(logged);
  }
  onSeconds(log.until((START_S + DAY_SECONDS) * 1000));
  return told;
}

test('each fault of a day is found with its interval and nothing else is, the log is complete, memory does not grow', async () => {
  const host = new TestServer();
  try {
    const input = { kind: 'simulated', faults: [] } as const;
    const lineId = addLine(host.server, {
      name: 'Dome feed',
      jobId: host.jobId,
      input,
      specId: null,
      plannedSeconds: null,
    });
    const heldMb: number[] = [];
    let waiting: (LoggedSecond & { lineId: string })[] = [];
    const told = aDay(FAULTS, (seconds) => {
      waiting.push(...seconds.map((second) => ({ ...second, lineId })));
      if (waiting.length < 3600) return;
      writeSeconds(host.server, waiting);
      waiting = [];
      collectGarbage();
      const { heapUsed, arrayBuffers } = process.memoryUsage();
      heldMb.push((heapUsed + arrayBuffers) / 1e6);
    });
    writeSeconds(host.server, waiting);

    // A reading follows the sound by as long as it is the mean of: 3 s of short-term loudness.
    const late: Partial<Record<AlarmKind, number>> = { loudness: 3 };
    expect(told.map(({ kind }) => kind)).toEqual(FAULTS.map(({ kind }) => kind));
    for (const [i, { kind, atS, seconds }] of FAULTS.entries()) {
      const { startS, endS } = told[i] as Told;
      const by = late[kind] ?? 0.1;
      expect(startS).toBeGreaterThanOrEqual(atS - 0.1);
      expect(startS).toBeLessThanOrEqual(atS + by);
      expect(endS).toBeGreaterThanOrEqual(atS + seconds - 0.1);
      expect(endS).toBeLessThanOrEqual(atS + seconds + by);
    }
    // What is held, hour by hour: nothing is added by all the hours behind the second.
    expect(heldMb).toHaveLength(24);
    expect(Math.max(...heldMb.slice(2)) - (heldMb[1] as number)).toBeLessThan(4);

    const log = readLog(host.server, lineId, START_S, START_S + DAY_SECONDS, 1);
    expect(log).toHaveLength(DAY_SECONDS);
    expect(log.every(({ atS }, i) => atS === START_S + i)).toBe(true);
    const minutes = readLog(host.server, lineId, START_S, START_S + DAY_SECONDS, 60);
    expect(minutes.reduce((sum, { states }) => sum + states.inside + states.over + states.under, 0)).toBe(DAY_SECONDS);

    for (const { kind, startS, endS, words } of told) {
      const [startMs, endMs] = [(START_S + startS) * 1000, (START_S + endS) * 1000];
      noteEvent(host.server, lineId, { kind, startMs, endMs, words });
    }
    const report = reportOf(host.server, lineId, START_S, START_S + DAY_SECONDS);
    expect(report.events.map(({ kind }) => kind)).toEqual(FAULTS.map(({ kind }) => kind));
    // Silence, an over and loudness are outside by the second; a second formula over the raw rows says when.
    const outside = log.filter(({ states }) => states.inside === 0).map(({ atS }) => atS - START_S);
    const runs = outside.filter((atS, i) => outside[i - 1] !== atS - 1).length;
    expect(report.outside.map(({ state }) => state)).toEqual(['under', 'over', 'over']);
    expect(runs).toBe(3);
    expect(report.outside.reduce((sum, { startS, endS }) => sum + endS - startS, 0)).toBe(outside.length);
    expect(report.outside[1]).toMatchObject({ startS: START_S + 40_000, endS: START_S + 40_001 });
    expect(report.outside[1]?.words).toEqual([expect.stringMatching(/^\d\.\d dB over the ceiling \(L\)$/)]);
    expect(report.seconds.inside).toBe(DAY_SECONDS - outside.length);
    const svg = reportSvg(report, 60);
    expect(svg).toContain('<title>Dome feed: loudness log</title>');
    expect(svg.match(/#C9401A/g)).toHaveLength(3);
    const pdf = await reportPdf(report, 60);
    expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
  } finally {
    await host.remove();
  }
});

test('on a clean day no alarm is told, and every second is inside', () => {
  const states: string[] = [];
  const told = aDay([], (seconds) => states.push(...seconds.map(({ state }) => state)));
  expect(told).toEqual([]);
  expect(states).toHaveLength(DAY_SECONDS);
  expect(new Set(states)).toEqual(new Set(['inside']));
});
