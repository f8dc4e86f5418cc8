import type { ChannelLayout } from '../loudness/channel-layout';
import type { Spec } from '../spec/spec';
import { BINS_PER_SECOND } from '../units/frames';
import type { AlarmDetail } from './alarms/alarm';
import { ALARMS, type AlarmKind, type AlarmSettings } from './alarms/alarms';
import type { LineMoment } from './line-meter';

/** An alarm is over once its condition has not held for so long: what comes again sooner is the same. */
const OVER_AFTER_BINS = BINS_PER_SECOND;

/** An alarm that has come, goes farther than it had, or is over. Its place is in 100 ms of the line. */
export interface AlarmChange {
  kind: AlarmKind;
  /** The first 100 ms in which its condition held, however long before it came that was. */
  startBin: number;
  /** Behind the last in which it held; null while it goes on. */
  endBin: number | null;
  detail: AlarmDetail;
}

interface Watched {
  startBin: number;
  /** Behind the last in which it held. */
  heldUntilBin: number;
  detail: AlarmDetail;
  hasCome: boolean;
}

/** Watches a line for every alarm that is on. */
export class AlarmWatch {
  #judged: { spec: Spec; settings: AlarmSettings; layout: ChannelLayout };
  readonly #watched = new Map<AlarmKind, Watched>();

  constructor(spec: Spec, settings: AlarmSettings, layout: ChannelLayout) {
    this.#judged = { spec, settings, layout };
  }

  /** Looks at the next 100 ms; returns what has changed. */
  add(moment: LineMoment): AlarmChange[] {
    const { spec, settings, layout } = this.#judged;
    const changes: AlarmChange[] = [];
    for (const { kind, holds } of ALARMS) {
      const { isOn, numbers } = settings[kind];
      const detail = isOn ? holds(moment, { settings: numbers, spec, layout }) : null;
      const before = this.#watched.get(kind);
      if (detail) {
        const now = before ?? { startBin: moment.bin, heldUntilBin: moment.bin, detail, hasCome: false };
        const isFarther = before !== undefined && goesFarther(detail, now.detail);
        now.heldUntilBin = moment.bin + 1;
        if (isFarther) now.detail = farther(detail, now.detail);
        this.#watched.set(kind, now);
        const lasted = now.heldUntilBin - now.startBin;
        const comes = !now.hasCome && lasted >= Math.round((numbers.seconds ?? 0) * BINS_PER_SECOND);
        if (comes) now.hasCome = true;
        if (comes || (isFarther && now.hasCome)) changes.push(changeOf(kind, now, null));
      } else if (before && (!before.hasCome || moment.bin + 1 - before.heldUntilBin >= OVER_AFTER_BINS)) {
        this.#watched.delete(kind);
        if (before.hasCome) changes.push(changeOf(kind, before, before.heldUntilBin));
      }
    }
    return changes;
  }

  /** Judges by other settings from here on: an alarm that is off now is over. */
  judgeBy(spec: Spec, settings: AlarmSettings): void {
    this.#judged = { ...this.#judged, spec, settings };
  }

  /** Nothing follows what was seen last: what goes on is over. */
  interrupt(): AlarmChange[] {
    const changes = [...this.#watched].flatMap(([kind, own]) =>
      own.hasCome ? [changeOf(kind, own, own.heldUntilBin)] : [],
    );
    this.#watched.clear();
    return changes;
  }
}

function changeOf(kind: AlarmKind, { startBin, detail }: Watched, endBin: number | null): AlarmChange {
  return { kind, startBin, endBin, detail };
}

function goesFarther(detail: AlarmDetail, before: AlarmDetail): boolean {
  const isMore = Math.abs(detail.by ?? 0) > Math.abs(before.by ?? 0) + 0.05;
  return isMore || detail.channels.some((c) => !before.channels.includes(c));
}

function farther(detail: AlarmDetail, before: AlarmDetail): AlarmDetail {
  const by = Math.abs(detail.by ?? 0) > Math.abs(before.by ?? 0) ? detail.by : before.by;
  return { by, channels: [...new Set([...before.channels, ...detail.channels])].sort((a, b) => a - b) };
}
