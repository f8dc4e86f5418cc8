import { resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { eq } from 'drizzle-orm';
import { AppError, type ErrorRecord } from '@/core/errors/app-error';
import { alarmOf } from '@/core/live/alarms/alarms';
import type { LineKind, LineState } from '@/core/live/line';
import type { LineEvent } from '@/core/live/line-event';
import type { LineMoment } from '@/core/live/line-meter';
import { type MaximaMs, NO_MAXIMA_MS } from '@/core/live/maxima-times';
import { addRecent, noLevels, type RecentLevels } from '@/core/live/recent-levels';
import type { LoggedSecond } from '@/core/live/second-log';
import { formatNumber } from '@/core/units/format';
import type {
  HeardLine,
  LineFormat,
  LineNews,
  LineOrder,
  LineTransfer,
  PushedFrames,
  RecordingState,
} from '@/workers/line-protocol';
import { FollowedFile } from '@/workers/node/followed-file';
import type { ServerContext } from '../context';
import { lines } from '../db/schema';
import { log } from '../log';
import { endEvents, eventsBetween, noteEvent } from './line-events';
import { writeSeconds } from './line-log';
import { checkAllowed, type LineRow, lineRow, lineRows, specOfLine } from './lines';
import { lineMessages as messages } from './messages';
import {
  beginRecording,
  endRecording,
  noteRecording,
  type RecordingView,
  recordingsOf,
  recoverRecordings,
} from './recordings';

/** Seconds of lines are written together, so often. */
const WRITTEN_MS = 1000;
/** So many of its events are told at once, of whatever time. */
const TOLD_EVENTS = 100;
const LAST_MS = 8.64e15;
/** A thread that has died is started again, but not at once for ever. */
const STARTED_AGAIN_MS = 2000;

/** What is known of a line now. */
export interface LiveLine {
  lineId: string;
  state: LineState;
  /** Why it is lost. */
  error: ErrorRecord | null;
  format: LineFormat | null;
  moment: LineMoment | null;
  /** By the clock, when that ended. */
  momentMs: number | null;
  maximaMs: MaximaMs;
  isHeld: boolean;
  transfer: LineTransfer | null;
  recording: (RecordingState & { startMs: number }) | null;
  /** What goes on. */
  open: LineEvent[];
}

/** What whoever looks at a line is told. */
export type LineTold =
  /** With the latest events and recordings. */
  | { kind: 'snapshot'; live: LiveLine; recent: RecentLevels; events: LineEvent[]; recordings: RecordingView[] }
  | { kind: 'live'; live: LiveLine }
  | { kind: 'moments'; lineId: string; moments: LineMoment[]; isHeld: boolean; endMs: number; maximaMs: MaximaMs }
  | { kind: 'seconds'; lineId: string; seconds: LoggedSecond[]; transfer: LineTransfer }
  | { kind: 'event'; lineId: string; event: LineEvent }
  | { kind: 'recordings'; lineId: string; recordings: RecordingView[] };

/** Of all lines: what is set of them, or what they are judged by, is not what it was. */
export type LinesEdited = { kind: 'edited' };

interface Heard {
  kind: LineKind;
  /** The recording, measured while it grows. */
  followed: FollowedFile | null;
  /** Of the window that sends it, and of those whose place another has taken. */
  sessionId: string | null;
  endedSessions: Set<string>;
  live: LiveLine;
  recent: RecentLevels;
}

/** The lines that are heard: the thread that hears them, what is known of each now, and what is written of it. */
export class LiveLines {
  readonly #server: ServerContext;
  readonly #heard = new Map<string, Heard>();
  readonly #listeners = new Set<(told: LineTold) => void>();
  readonly #unwritten: (LoggedSecond & { lineId: string })[] = [];
  readonly #writing: NodeJS.Timeout;
  /** What is done with recordings that have ended. */
  readonly #ending = new Set<Promise<void>>();
  readonly #ended = new Map<string, () => void>();
  #thread: Worker | undefined;
  #isClosed = false;
  readonly #bundlePath: string;

  /** @param bundlePath the built thread, relative to the working folder */
  constructor(server: ServerContext, bundlePath = 'dist/line-thread.mjs') {
    this.#server = server;
    this.#bundlePath = bundlePath;
    this.#writing = setInterval(() => this.#write(), WRITTEN_MS);
    this.#writing.unref();
  }

  /** What a process that was ended has left is taken in, and lines that were on are heard again. */
  async start(): Promise<void> {
    const nowMs = this.#server.clock.now();
    for (const row of lineRows(this.#server)) {
      endEvents(this.#server, row.id, nowMs);
      if (row.isOn) this.#hear(row);
    }
    await recoverRecordings(this.#server);
  }

  /** What is known of a line now: one that is off is off. */
  live(lineId: string): LiveLine {
    return this.#heard.get(lineId)?.live ?? offLine(lineId);
  }

  /** What whoever begins to look at a line is told first. */
  snapshot(lineId: string): LineTold {
    const recent = this.#heard.get(lineId)?.recent ?? noLevels();
    const events = eventsBetween(this.#server, lineId, 0, LAST_MS, TOLD_EVENTS);
    const recordings = recordingsOf(this.#server, lineId);
    return { kind: 'snapshot', live: this.live(lineId), recent, events, recordings };
  }

  /** Calls the listener with whatever happens, until the function that is returned is called. */
  listen(listener: (told: LineTold) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Throws `not-found`, `line-not-allowed`. */
  turnOn(lineId: string): void {
    const row = lineRow(this.#server, lineId);
    checkAllowed(row.input);
    if (row.isOn && this.#heard.has(lineId)) return;
    this.#server.db.update(lines).set({ isOn: true }).where(eq(lines.id, lineId)).run();
    this.#note(lineId, 'on', messages.on);
    this.#hear(row);
  }

  /** Lets a line go: what is recorded of it is taken in. Throws `not-found`. */
  async turnOff(lineId: string): Promise<void> {
    lineRow(this.#server, lineId);
    this.#server.db.update(lines).set({ isOn: false }).where(eq(lines.id, lineId)).run();
    if (!this.#heard.has(lineId)) return;
    await this.#end(lineId);
    this.#note(lineId, 'off', messages.off);
  }

  /** Measuring of what grows with a programme is paused, or goes on. Throws `line-off`. */
  setHeld(lineId: string, isHeld: boolean): void {
    this.#needOn(lineId);
    this.#order({ kind: 'hold', lineId, isHeld });
    this.#note(lineId, isHeld ? 'paused' : 'continued', isHeld ? messages.paused : messages.continued);
  }

  /** Throws `line-off`. */
  reset(lineId: string): void {
    this.#needOn(lineId);
    this.#order({ kind: 'reset', lineId });
    this.#note(lineId, 'reset', messages.reset);
  }

  /** Throws `line-off`. */
  marker(lineId: string): void {
    this.#needOn(lineId);
    this.#order({ kind: 'marker', lineId });
  }

  /** Records a line, with the last seconds of what was heard already. Throws `line-off`, `already-recording`. */
  record(lineId: string, { bitDepth, preRollSeconds }: { bitDepth: 24 | 32; preRollSeconds: number }): string {
    const row = this.#needOn(lineId);
    const recordingId = beginRecording(this.#server, row);
    const path = this.#server.folder.recording(recordingId);
    this.#order({ kind: 'record', lineId, order: { recordingId, path, bitDepth, preRollSeconds } });
    this.#tellRecordings(lineId);
    return recordingId;
  }

  /** Throws `line-off`. */
  stopRecording(lineId: string): void {
    this.#needOn(lineId);
    this.#order({ kind: 'stop-recording', lineId });
  }

  /**
   * Takes frames that a page sends of an input of its machine. The window that began last is heard.
   *
   * @throws AppError `line-off`, `input-elsewhere`, or `bad-request` where the line comes from no input
   */
  push(lineId: string, frames: PushedFrames): void {
    const heard = this.#heard.get(lineId);
    if (!heard) throw new AppError('line-off', { name: lineRow(this.#server, lineId).name });
    if (heard.kind !== 'input') throw new AppError('bad-request', { reason: messages.notAnInput });
    const { sessionId, endedSessions } = heard;
    if (endedSessions.has(frames.sessionId)) {
      throw new AppError('input-elsewhere', { name: lineRow(this.#server, lineId).name });
    }
    if (sessionId !== null && sessionId !== frames.sessionId) endedSessions.add(sessionId);
    heard.sessionId = frames.sessionId;
    this.#thread?.postMessage({ kind: 'frames', lineId, frames } satisfies LineOrder, [frames.bytes.buffer]);
  }

  /** Hears lines by what is set of them now. */
  refresh(): void {
    for (const row of lineRows(this.#server)) {
      if (this.#heard.has(row.id)) this.#order({ kind: 'hear', line: this.#heardLine(row) });
    }
  }

  /** Lets all lines go, which are on again at the next start. */
  async close(): Promise<void> {
    this.#isClosed = true;
    await Promise.all([...this.#heard.keys()].map((lineId) => this.#end(lineId)));
    await Promise.all(this.#ending);
    await this.#thread?.terminate();
    clearInterval(this.#writing);
    this.#write();
  }

  #needOn(lineId: string): LineRow {
    const row = lineRow(this.#server, lineId);
    if (!this.#heard.has(lineId)) throw new AppError('line-off', { name: row.name });
    return row;
  }

  #hear(row: LineRow): void {
    const live: LiveLine = { ...offLine(row.id), state: 'opening' };
    const sessions = { sessionId: null, endedSessions: new Set<string>() };
    this.#heard.set(row.id, { kind: row.input.kind, followed: null, ...sessions, live, recent: noLevels() });
    this.#tell({ kind: 'live', live });
    this.#order({ kind: 'hear', line: this.#heardLine(row) });
  }

  #heardLine(row: LineRow): HeardLine {
    const { id: lineId, name, input, alarms } = row;
    return { lineId, name, input, spec: specOfLine(this.#server, row), alarms };
  }

  async #end(lineId: string): Promise<void> {
    if (this.#thread) {
      const isEnded = new Promise<void>((ended) => this.#ended.set(lineId, ended));
      this.#order({ kind: 'end', lineId });
      await isEnded;
    }
    this.#write();
    this.#heard.delete(lineId);
    for (const event of endEvents(this.#server, lineId, this.#server.clock.now())) {
      this.#tell({ kind: 'event', lineId, event });
    }
    this.#tell({ kind: 'live', live: offLine(lineId) });
  }

  #order(order: LineOrder): void {
    this.#thread ??= this.#startThread();
    this.#thread.postMessage(order);
  }

  #startThread(): Worker {
    const thread = new Worker(resolve(/*turbopackIgnore: true*/ this.#bundlePath));
    thread.on('message', (news: LineNews) => this.#take(news));
    thread.on('error', (error) => {
      log.error({ err: error }, 'the thread that hears lines has died');
      this.#thread = undefined;
      for (const ended of this.#ended.values()) ended();
      if (!this.#isClosed) setTimeout(() => this.#hearAgain(), STARTED_AGAIN_MS).unref();
    });
    return thread;
  }

  /** After the thread has died: recordings are whole on disk, and lines are opened again. */
  #hearAgain(): void {
    if (this.#isClosed) return;
    for (const [lineId, { followed }] of this.#heard) {
      followed?.discard();
      endEvents(this.#server, lineId, this.#server.clock.now());
      this.#hear(lineRow(this.#server, lineId));
    }
    this.#follow(recoverRecordings(this.#server));
  }

  #take(news: LineNews): void {
    const heard = this.#heard.get(news.lineId);
    if (news.kind === 'ended') {
      this.#ended.get(news.lineId)?.();
      this.#ended.delete(news.lineId);
    }
    if (news.kind === 'recorded') this.#takeRecorded(news, heard);
    if (!heard) return;
    const { lineId } = news;
    switch (news.kind) {
      case 'opening':
        // One that is lost stays lost until it is there again.
        if (heard.live.state !== 'lost') this.#set(heard, { state: 'opening' });
        return;
      case 'sounding': {
        this.#endLost(lineId, news.atMs);
        this.#set(heard, { state: 'sounding', format: news.format, error: null });
        return;
      }
      case 'lost': {
        if (heard.live.state !== 'lost') {
          const words = messages.lost(news.reason);
          this.#happened(lineId, { kind: 'line-lost', startMs: news.atMs, endMs: null, words });
        }
        this.#set(heard, { state: 'lost', error: news.error });
        return;
      }
      case 'moments': {
        const { moments, isHeld, endMs, maximaMs } = news;
        addRecent(heard.recent, moments);
        heard.live = { ...heard.live, moment: moments.at(-1) ?? null, momentMs: endMs, maximaMs, isHeld };
        this.#tell({ kind: 'moments', lineId, moments, isHeld, endMs, maximaMs });
        return;
      }
      case 'seconds': {
        const { seconds, transfer } = news;
        this.#unwritten.push(...seconds.map((second) => ({ ...second, lineId })));
        heard.live = { ...heard.live, transfer };
        this.#tell({ kind: 'seconds', lineId, seconds, transfer });
        return;
      }
      case 'alarm': {
        const { alarm: kind, startMs, endMs, detail } = news;
        const words = alarmOf(kind).say(detail, heard.live.format?.channelLabels ?? []);
        this.#happened(lineId, { kind, startMs, endMs, words, detail });
        return;
      }
      case 'gap': {
        const { startMs, frames, seconds } = news;
        const words = messages.framesLost(frames, formatNumber(seconds * 1000));
        const endMs = Math.round(startMs + seconds * 1000);
        this.#happened(lineId, { kind: 'frames-lost', startMs, endMs, words });
        return;
      }
      case 'marker':
        this.#note(lineId, 'marker', messages.marker(news.number), news.atMs);
        return;
      case 'recording': {
        const { state, startMs } = news;
        noteRecording(this.#server, state, startMs);
        this.#followRecording(heard, state);
        this.#set(heard, { recording: { ...state, startMs } });
        return;
      }
    }
  }

  #followRecording(heard: Heard, { recordingId, frames }: RecordingState): void {
    if (frames === 0) return;
    heard.followed ??= new FollowedFile(this.#server.folder.recording(recordingId), heard.live.lineId);
    heard.followed.grown(frames);
  }

  #takeRecorded({ lineId, state, startMs }: Extract<LineNews, { kind: 'recorded' }>, heard: Heard | undefined): void {
    if (heard) this.#set(heard, { recording: null });
    const followed = heard?.followed ?? undefined;
    if (heard) heard.followed = null;
    const ending = endRecording(this.#server, state, startMs, followed);
    this.#follow(ending.then(() => this.#tellRecordings(lineId)));
    this.#tellRecordings(lineId);
  }

  #tellRecordings(lineId: string): void {
    this.#tell({ kind: 'recordings', lineId, recordings: recordingsOf(this.#server, lineId) });
  }

  #follow(work: Promise<void>): void {
    const own = work
      .catch((error) => log.error({ err: error }, 'a recording could not be ended'))
      .finally(() => this.#ending.delete(own));
    this.#ending.add(own);
  }

  #set(heard: Heard, change: Partial<LiveLine>): void {
    heard.live = { ...heard.live, ...change };
    this.#tell({ kind: 'live', live: heard.live });
  }

  #endLost(lineId: string, atMs: number): void {
    const open = this.#heard.get(lineId)?.live.open.find(({ kind }) => kind === 'line-lost');
    if (open) this.#happened(lineId, { ...open, endMs: Math.round(atMs) });
  }

  /** Something that a person has done. */
  #note(lineId: string, kind: LineEvent['kind'], words: string, atMs = this.#server.clock.now()): void {
    this.#happened(lineId, { kind, startMs: atMs, endMs: atMs, words });
  }

  #happened(lineId: string, event: Parameters<typeof noteEvent>[2]): void {
    const noted = noteEvent(this.#server, lineId, { ...event, startMs: Math.round(event.startMs) });
    const heard = this.#heard.get(lineId);
    if (heard) {
      const others = heard.live.open.filter(({ id }) => id !== noted.id);
      heard.live = { ...heard.live, open: noted.endMs === null ? [...others, noted] : others };
    }
    this.#tell({ kind: 'event', lineId, event: noted });
  }

  #tell(told: LineTold): void {
    for (const listener of this.#listeners) listener(told);
  }

  #write(): void {
    try {
      writeSeconds(this.#server, this.#unwritten);
      this.#unwritten.length = 0;
    } catch (error) {
      // A disk that is full may have room again: what waits is written then.
      log.error({ err: error }, 'seconds of lines could not be written');
    }
  }
}

function offLine(lineId: string): LiveLine {
  return {
    lineId,
    state: 'off',
    error: null,
    format: null,
    moment: null,
    momentMs: null,
    maximaMs: NO_MAXIMA_MS,
    isHeld: false,
    transfer: null,
    recording: null,
    open: [],
  };
}
