import { channelLayout } from '../loudness/channel-layout';
import { specById } from '../spec/catalogue';
import { type AlarmChange, AlarmWatch } from './alarm-watch';
import { type AlarmKind, alarmOf, alarmSettings } from './alarms/alarms';
import { LineMeter } from './line-meter';
import { FAULTS, type FaultKind } from './simulated/faults';
import { simulatedSound } from './simulated/sound';

const RATE = 48_000;
const STEREO = channelLayout(2);
const ALL = alarmSettings.parse({
  mono: { isOn: true, numbers: { seconds: 3 } },
  hum: { isOn: true, numbers: { seconds: 5 } },
  loudness: { numbers: { seconds: 3 } },
});

/** The changes of a simulated line of 40 s that has a fault from its 10th second to its 25th. */
function watched(kind: FaultKind | null, settings = ALL): AlarmChange[] {
  const meter = new LineMeter(RATE, [1, 1]);
  const watch = new AlarmWatch(specById('ebu-r128'), settings, STEREO);
  const channels: [Float32Array, Float32Array] = [new Float32Array(RATE), new Float32Array(RATE)];
  const changes: AlarmChange[] = [];
  for (let second = 0; second < 40; second++) {
    simulatedSound(channels, second * RATE, RATE, RATE, 7);
    const fault = second >= 10 && second < 25 ? FAULTS.find((own) => own.kind === kind) : undefined;
    fault?.spoil?.(channels, second * RATE, RATE, RATE);
    for (const moment of meter.process(channels, RATE)) changes.push(...watch.add(moment));
  }
  return changes;
}

/** Of each kind, from which second to which it was there in the end. */
function intervals(changes: readonly AlarmChange[]): Partial<Record<AlarmKind, [number, number | null]>> {
  return Object.fromEntries(
    changes.map(({ kind, startBin, endBin }) => [kind, [startBin / 10, endBin === null ? null : endBin / 10]]),
  );
}

test('a clean line has no alarm, whichever are on', () => {
  expect(watched(null)).toEqual([]);
});

test.each<[FaultKind, AlarmKind, number, number]>([
  // A reading follows the sound by so long as it is the mean of: 100 ms, 3 s, or the seconds that hum is compared over.
  ['silence', 'silence', 0.1, 0.1],
  ['channel-lost', 'channel-lost', 0.1, 0.1],
  ['mono', 'mono', 0.1, 0.1],
  ['too-hot', 'over', 0.5, 0.5],
  ['too-hot', 'loudness', 1.5, 3],
  ['hum', 'hum', 5, 1.1],
])('a line that is %s has the alarm %s, from where it begins to where it ends', (fault, kind, late, after) => {
  const [start, end] = intervals(watched(fault))[kind] ?? [Number.NaN, Number.NaN];
  expect(start).toBeGreaterThanOrEqual(9.9);
  expect(start).toBeLessThanOrEqual(10 + late);
  expect(end).toBeGreaterThanOrEqual(24.4);
  expect(end).toBeLessThanOrEqual(25 + after);
});

test('an alarm comes only when its condition has held for so long, and not where it is off', () => {
  const late = alarmSettings.parse({ silence: { numbers: { seconds: 14 } } });
  expect(watched('silence', late)[0]).toMatchObject({ kind: 'silence', startBin: 100, endBin: null });
  expect(watched('silence', alarmSettings.parse({ silence: { numbers: { seconds: 16 } } }))).toEqual([]);
  expect(watched('silence', alarmSettings.parse({ silence: { isOn: false } }))).toEqual([]);
});

test('what an alarm is about is said with its channels and how far it went', () => {
  const lost = watched('channel-lost').at(-1);
  expect(alarmOf('channel-lost').say(lost?.detail ?? { by: null, channels: [] }, ['L', 'R'])).toBe('channel L lost');
  const over = watched('too-hot').findLast(({ kind }) => kind === 'over');
  expect(alarmOf('over').say(over?.detail ?? { by: null, channels: [] }, ['L', 'R'])).toMatch(
    /^1\.\d dB over the ceiling \(L, R\)$/,
  );
});

test('a line that is lost ends what went on', () => {
  const watch = new AlarmWatch(specById('ebu-r128'), ALL, STEREO);
  const meter = new LineMeter(RATE, [1, 1]);
  const channels = [new Float32Array(RATE), new Float32Array(RATE)];
  for (let second = 0; second < 12; second++) {
    for (const moment of meter.process(channels, RATE)) watch.add(moment);
  }
  expect(watch.interrupt()).toMatchObject([{ kind: 'silence', startBin: 0 }]);
  expect(watch.interrupt()).toEqual([]);
});
