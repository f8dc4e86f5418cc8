import { readdirSync, rmSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { isNull } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { PassFields } from '@/core/outboard/pass';
import { Recording } from '@/workers/node/recording';
import type { ServerContext } from '../context';
import { outboardPasses } from '../db/schema';
import { newId } from '../ids';
import { programmeOf } from '../measure/limiting';
import { passMessages as messages } from './messages';
import { recordPass } from './passes';

/** A pass of which nothing has come for so long is over: its window is gone. */
const SILENT_MS = 60_000;

interface OpenPass {
  programmeId: string;
  title: string;
  fields: PassFields;
  recording: Recording;
  path: string;
  nextFrame: number;
  timer: NodeJS.Timeout;
}

/**
 * Passes through outboard gear that are under way: what a page sends and what comes back are recorded as they come. One that was not
 * recorded whole is nothing, and leaves nothing.
 */
export class OpenPasses {
  readonly #server: ServerContext;
  readonly #open = new Map<string, OpenPass>();

  constructor(server: ServerContext) {
    this.#server = server;
    this.#sweep();
  }

  /** Throws `not-found`, `not-writable`. */
  async begin(programmeId: string, fields: PassFields): Promise<string> {
    const { title } = programmeOf(this.#server, programmeId);
    const id = newId();
    const path = this.#server.folder.pass(id);
    const { sampleRateHz, channels } = fields;
    const recording = await Recording.create(path, {
      sampleRateHz,
      channels: 2 * channels,
      channelMask: 0,
      bitDepth: 32,
    });
    this.#open.set(id, { programmeId, title, fields, recording, path, nextFrame: 0, timer: this.#timer(id) });
    return id;
  }

  /** Channels that are sent, as many as come back. Throws `pass-interrupted` where it is not under way. */
  channelsOf(passId: string): number {
    return this.#needed(passId).fields.channels;
  }

  /**
   * Records frames: of each the channels that were sent, then those that came back, interleaved. What was sent twice is taken once.
   *
   * @param startFrame of the first, since it began
   * @throws AppError `pass-interrupted` where frames are missing, or nothing more can be kept
   */
  push(passId: string, startFrame: number, samples: Float32Array): void {
    const pass = this.#needed(passId);
    const channels = 2 * pass.fields.channels;
    const had = Math.max(0, pass.nextFrame - startFrame);
    const frames = samples.length / channels - had;
    if (startFrame > pass.nextFrame) throw this.#interrupted(passId, messages.framesMissing);
    clearTimeout(pass.timer);
    pass.timer = this.#timer(passId);
    if (frames <= 0) return;
    pass.recording.add(planar(samples, channels, had, frames), frames);
    const { failure } = pass.recording;
    if (failure) throw this.#interrupted(passId, messages.diskFailed(failure.text.happened));
    pass.nextFrame += frames;
  }

  /**
   * Ends a pass that has come back whole, and has it aligned.
   *
   * @param firstFrame where what was sent begins in it
   * @throws AppError `pass-interrupted` where it is not whole
   */
  async finish(passId: string, firstFrame: number): Promise<void> {
    const pass = this.#needed(passId);
    const { programmeId, fields, recording } = pass;
    if (pass.nextFrame < firstFrame + fields.frames) throw this.#interrupted(passId, messages.tooShort);
    clearTimeout(pass.timer);
    this.#open.delete(passId);
    await recording.finish();
    if (recording.failure) {
      await rm(pass.path, { force: true });
      throw interruption(pass, messages.diskFailed(recording.failure.text.happened));
    }
    recordPass(this.#server, passId, programmeId, { ...fields, firstFrame });
  }

  /** Of one that is gone already nothing is left to do. */
  async cancel(passId: string): Promise<void> {
    const pass = this.#open.get(passId);
    if (!pass) return;
    clearTimeout(pass.timer);
    this.#open.delete(passId);
    await pass.recording.finish();
    await rm(pass.path, { force: true });
  }

  async close(): Promise<void> {
    await Promise.all([...this.#open.keys()].map((passId) => this.cancel(passId)));
  }

  #needed(passId: string): OpenPass {
    const pass = this.#open.get(passId);
    if (!pass) throw new AppError('pass-interrupted', { title: messages.programme, reason: messages.notUnderWay });
    return pass;
  }

  #interrupted(passId: string, reason: string): AppError {
    const error = interruption(this.#needed(passId), reason);
    void this.cancel(passId);
    return error;
  }

  #timer(passId: string): NodeJS.Timeout {
    return setTimeout(() => void this.cancel(passId), SILENT_MS).unref();
  }

  /** Removes what a process that was ended has left: recordings that no row waits for. */
  #sweep(): void {
    const { db, folder } = this.#server;
    const rows = db.select({ id: outboardPasses.id }).from(outboardPasses).where(isNull(outboardPasses.reading)).all();
    const waiting = new Set(rows.map(({ id }) => `${id}.wav`));
    for (const name of readdirSync(folder.passes)) {
      if (!waiting.has(name)) rmSync(join(folder.passes, name), { force: true });
    }
  }
}

function interruption({ title }: OpenPass, reason: string): AppError {
  return new AppError('pass-interrupted', { title, reason });
}

/** Frames of interleaved samples, by channel. */
function planar(samples: Float32Array, channels: number, startFrame: number, frames: number): Float32Array[] {
  return Array.from({ length: channels }, (_, c) => {
    const own = new Float32Array(frames);
    for (let i = 0, at = startFrame * channels + c; i < frames; i++, at += channels) own[i] = samples[at] as number;
    return own;
  });
}
