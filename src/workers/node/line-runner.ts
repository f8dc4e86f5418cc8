import { setTimeout as pause } from 'node:timers/promises';
import { type Line, type LineGap, openLine } from '@/codecs/line';
import { AppError, isAppError, toErrorRecord } from '@/core/errors/app-error';
import { type AlarmChange, AlarmWatch } from '@/core/live/alarm-watch';
import { PRE_ROLL_SECONDS } from '@/core/live/line';
import { LineClock } from '@/core/live/line-clock';
import { LineMeter, type LineMoment } from '@/core/live/line-meter';
import { type MaximaMs, maximaMs } from '@/core/live/maxima-times';
import { SecondLog } from '@/core/live/second-log';
import { type ChannelLayout, channelLayout } from '@/core/loudness/channel-layout';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { HeardLine, LineFormat, LineNews, PushedFrames, RecordOrder } from '../line-protocol';
import { LineRecording } from './line-recording';
import { PreRoll } from './pre-roll';
import { PushedLine } from './pushed-line';
import { SimulatedLine } from './simulated-line';

/** A line that is lost is tried again, at first soon. */
const TRIED_AGAIN_MS = [500, 1000, 2000, 5000, 10_000];
/** How often the seconds of a line that is not there are logged. */
const LOST_LOGGED_MS = 1000;

type Tell = (news: NewsOf<LineNews>) => void;
type NewsOf<T> = T extends unknown ? Omit<T, 'lineId'> : never;

/** What is measured of a line for as long as its format stays: another format is measured anew. */
interface Measuring {
  format: LineFormat;
  layout: ChannelLayout;
  meter: LineMeter;
  watch: AlarmWatch;
  preRoll: PreRoll;
  /** What was read last, and when its maxima were. */
  last: { readings: LineMoment['readings']; maximaMs: MaximaMs } | undefined;
}

/** Hears one line: opens it, again whenever it is lost, measures, logs, watches and records it, and tells what is there. */
export class LineRunner {
  #line: HeardLine;
  readonly #tell: Tell;
  readonly #simulated: SimulatedLine | undefined;
  readonly #pushed: PushedLine | undefined;
  readonly #ending = new AbortController();
  readonly #log: SecondLog;
  #open: Line | undefined;
  #measuring: Measuring | undefined;
  /** Of the line's own time, since it was opened last. */
  #clock: LineClock | undefined;
  /** 100 ms that were measured before it was opened last. */
  #earlierBins = 0;
  #recording: LineRecording | undefined;
  #lostFrames = 0;
  #isHeld = false;
  /** That were set while nothing was recorded. */
  #markers = 0;
  /** When the last frame had sounded. */
  #heardUntilMs: number;
  readonly #running: Promise<void>;

  constructor(line: HeardLine, tell: (news: LineNews) => void) {
    this.#line = line;
    this.#tell = (news) => tell({ ...news, lineId: line.lineId });
    const { input, name, lineId } = line;
    if (input.kind === 'simulated') this.#simulated = new SimulatedLine(name, seedOf(lineId), input.faults);
    if (input.kind === 'input') this.#pushed = new PushedLine(name);
    this.#heardUntilMs = Date.now();
    this.#log = new SecondLog(Date.now(), line.spec, line.alarms);
    this.#running = this.#run();
  }

  /** Hears it with other settings; where it comes from must be the same. */
  set(line: HeardLine): void {
    this.#line = line;
    if (line.input.kind === 'simulated') this.#simulated?.setFaults(line.input.faults);
    this.#log.judgeBy(line.spec, line.alarms);
    this.#measuring?.watch.judgeBy(line.spec, line.alarms);
  }

  /** Takes frames that a page sends. */
  push(frames: PushedFrames): void {
    this.#pushed?.push(frames);
  }

  setHeld(isHeld: boolean): void {
    this.#isHeld = isHeld;
    this.#measuring?.meter.setHeld(isHeld);
  }

  reset(): void {
    this.#measuring?.meter.reset();
  }

  /** Begins a recording; one that is under way goes on instead. */
  async record(order: RecordOrder): Promise<void> {
    if (this.#recording) return;
    const { recordingId } = order;
    const none = { recordingId, sampleRateHz: 0, frames: 0, clippedSamples: 0, gaps: [], markerFrames: [] };
    const measuring = this.#measuring;
    if (!measuring) {
      const error = new AppError('line-not-opened', { line: this.#line.name, reason: 'nothing has come from it yet' });
      this.#tell({ kind: 'recorded', state: { ...none, failure: error.toJSON() }, startMs: Date.now() });
      return;
    }
    try {
      const { format, preRoll, layout } = measuring;
      const created = await LineRecording.create(order, { ...format, channelMask: layout.mask });
      // Nothing comes between these: what was heard while the file was made is in the pre-roll.
      const aheadFrames = Math.round(order.preRollSeconds * format.sampleRateHz);
      created.begin(preRoll.last(aheadFrames), preRoll.gapsInLast(aheadFrames), this.#heardUntilMs);
      this.#recording = created;
      this.#tell({ kind: 'recording', state: created.state, startMs: created.startMs });
    } catch (error) {
      this.#tell({ kind: 'recorded', state: { ...none, failure: toErrorRecord(error) }, startMs: Date.now() });
    }
  }

  async stopRecording(): Promise<void> {
    const recording = this.#recording;
    this.#recording = undefined;
    if (!recording) return;
    await recording.finish();
    this.#tell({ kind: 'recorded', state: recording.state, startMs: recording.startMs });
  }

  /** Marks where the line is now. */
  marker(): void {
    const number = this.#recording?.addMarker() ?? ++this.#markers;
    this.#tell({ kind: 'marker', atMs: Math.round(this.#heardUntilMs), number });
  }

  /** Lets the line go. */
  async end(): Promise<void> {
    this.#ending.abort();
    this.#open?.end();
    await this.#running;
    await this.stopRecording();
    this.#tell({ kind: 'ended' });
  }

  async #run(): Promise<void> {
    const { signal } = this.#ending;
    const logging = setInterval(() => {
      if (!this.#open) this.#logUntil(Date.now());
    }, LOST_LOGGED_MS);
    for (let tries = 0; !signal.aborted; tries++) {
      try {
        this.#tell({ kind: 'opening' });
        const gaps: LineGap[] = [];
        this.#open = await this.#openLine((gap) => gaps.push(gap));
        tries = 0;
        if (signal.aborted) this.#open.end();
        await this.#hear(this.#open, gaps);
        throw new AppError('line-lost', { line: this.#line.name, reason: 'its sender has ended it' });
      } catch (error) {
        this.#open = undefined;
        if (signal.aborted) break;
        this.#interrupt();
        this.#tell({ kind: 'lost', error: toErrorRecord(error), reason: reasonOf(error), atMs: this.#heardUntilMs });
      }
      const waitMs = TRIED_AGAIN_MS[Math.min(tries, TRIED_AGAIN_MS.length - 1)];
      await pause(waitMs, undefined, { signal }).catch(() => undefined);
    }
    clearInterval(logging);
    this.#interrupt();
    this.#logUntil(Date.now());
  }

  async #openLine(onGap: (gap: LineGap) => void): Promise<Line> {
    const { input } = this.#line;
    if (input.kind === 'stream') return openLine(input.address, onGap, this.#ending.signal);
    if (this.#pushed) return this.#pushed.open(onGap, this.#ending.signal);
    return (this.#simulated as SimulatedLine).open(onGap);
  }

  async #hear(line: Line, gaps: LineGap[]): Promise<void> {
    let ownFrames = 0;
    let told = 0;
    const { sampleRateHz } = line.format;
    for await (const part of line.parts) {
      if (this.#ending.signal.aborted) return;
      const nowMs = Date.now();
      if (ownFrames === 0) this.#begin(line, nowMs - (1000 * part.frames) / sampleRateHz);
      const { meter, preRoll } = this.#measuring as Measuring;
      ownFrames += part.frames;
      const clock = this.#clock as LineClock;
      clock.arrived((1000 * ownFrames) / sampleRateHz, nowMs);
      this.#heardUntilMs = clock.clockMs((1000 * ownFrames) / sampleRateHz);
      preRoll.add(part.channels, part.frames);
      this.#recording?.add(part.channels, part.frames);
      this.#take(meter.process(part.channels, part.frames));
      for (; (gaps[told]?.startFrame ?? Number.POSITIVE_INFINITY) < ownFrames; told++) {
        this.#tellGap(gaps[told] as LineGap, ownFrames, sampleRateHz);
      }
      if (this.#recording?.hasFailed) await this.stopRecording();
    }
  }

  /** Measures on where the line is as it was, and else anew. */
  #begin(line: Line, startMs: number): void {
    const { sampleRateHz, channels, channelMask } = line.format;
    const layout = channelLayout(channels, channelMask);
    const before = this.#measuring;
    const isSame = before?.format.sampleRateHz === sampleRateHz && before.format.channels === channels;
    if (before && isSame) this.#recording?.fillUntil(startMs);
    if (before && !isSame) void this.stopRecording();
    if (!before || !isSame) {
      const channelLabels = layout.channels.map(({ label }) => label);
      const weights = layout.channels.map(({ weight }) => weight);
      this.#measuring = {
        format: { sampleRateHz, channels, layout: layout.name, channelLabels },
        layout,
        meter: new LineMeter(sampleRateHz, weights),
        watch: new AlarmWatch(this.#line.spec, this.#line.alarms, layout),
        preRoll: new PreRoll(channels, PRE_ROLL_SECONDS * sampleRateHz),
        last: undefined,
      };
      this.#measuring.meter.setHeld(this.#isHeld);
      this.#earlierBins = 0;
    }
    const measuring = this.#measuring as Measuring;
    measuring.preRoll.clear();
    this.#clock = new LineClock(startMs);
    this.#logUntil(startMs);
    this.#tell({ kind: 'sounding', format: measuring.format, atMs: startMs });
  }

  #take(moments: readonly LineMoment[]): void {
    const measuring = this.#measuring as Measuring;
    for (const moment of moments) {
      const endMs = this.#msOfBin(moment.bin + 1);
      const { readings } = moment;
      measuring.last = { readings, maximaMs: maximaMs(readings, endMs, measuring.last) };
      for (const change of measuring.watch.add(moment)) this.#tellAlarm(change);
      const seconds = this.#log.add(moment, this.#msOfBin(moment.bin));
      if (seconds.length > 0) this.#tellSeconds(seconds);
    }
    const [moment, { last, meter }] = [moments.at(-1), measuring];
    if (!moment || !last) return;
    const endMs = this.#msOfBin(moment.bin + 1);
    this.#tell({ kind: 'moments', moments: [...moments], isHeld: meter.isHeld, endMs, maximaMs: last.maximaMs });
  }

  /** By the clock, when 100 ms of the line began. */
  #msOfBin(bin: number): number {
    const lineMs = ((bin - this.#earlierBins) * 1000) / BINS_PER_SECOND;
    return this.#clock?.clockMs(lineMs) ?? Date.now();
  }

  #interrupt(): void {
    const measuring = this.#measuring;
    if (!measuring || !this.#clock) return;
    for (const change of measuring.watch.interrupt()) this.#tellAlarm(change);
    this.#earlierBins = measuring.meter.interrupt();
    this.#clock = undefined;
  }

  #logUntil(clockMs: number): void {
    const seconds = this.#log.until(clockMs);
    if (seconds.length > 0) this.#tellSeconds(seconds);
  }

  #tellSeconds(seconds: ReturnType<SecondLog['until']>): void {
    const transfer = {
      frames: this.#measuring?.meter.frames ?? 0,
      lostFrames: this.#lostFrames,
      driftPpm: this.#clock?.driftPpm ?? null,
    };
    this.#tell({ kind: 'seconds', seconds, transfer });
    const recording = this.#recording;
    if (recording) this.#tell({ kind: 'recording', state: recording.state, startMs: recording.startMs });
  }

  #tellAlarm({ kind, startBin, endBin, detail }: AlarmChange): void {
    const endMs = endBin === null ? null : Math.round(this.#msOfBin(endBin));
    this.#tell({ kind: 'alarm', alarm: kind, startMs: Math.round(this.#msOfBin(startBin)), endMs, detail });
  }

  /** @param ownFrames of the line since it was opened, the part that is told with it included */
  #tellGap({ startFrame, frames }: LineGap, ownFrames: number, sampleRateHz: number): void {
    this.#lostFrames += frames;
    this.#recording?.addGap(ownFrames - startFrame, frames);
    this.#measuring?.preRoll.addGap(ownFrames - startFrame, frames);
    const startMs = this.#clock?.clockMs((1000 * startFrame) / sampleRateHz) ?? Date.now();
    this.#tell({ kind: 'gap', startMs: Math.round(startMs), frames, seconds: frames / sampleRateHz });
  }
}

/** Why a line is lost, without what it is called. */
function reasonOf(error: unknown): string {
  const details: unknown = isAppError(error) ? error.details : undefined;
  if (typeof details === 'object' && details !== null && 'reason' in details) return String(details.reason);
  return toErrorRecord(error).happened;
}

/** Each simulated line sounds otherwise. */
function seedOf(lineId: string): number {
  let seed = 0;
  for (const character of lineId) seed = (Math.imul(seed, 31) + character.charCodeAt(0)) | 0;
  return seed;
}
