import { chmodSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { log } from '../log';

const PART = '.part';
/** What people's work and receivers' secrets lie in is for whoever runs the app. */
const OWNERS_FOLDER = 0o700;

/** Where everything lies. Names inside are our own: hashes and ids, or names made safe. */
export class DataFolder {
  readonly root: string;
  /** Which folder and which database these are, beyond their names, once they are in use. */
  #inUse: string | undefined;

  /** @param root OPSIMETER_DATA, or `data` in the working folder */
  constructor(root = process.env.OPSIMETER_DATA ?? 'data') {
    this.root = resolve(/*turbopackIgnore: true*/ root);
    for (const folder of [
      'incoming',
      'uploads',
      'sources',
      'decoded',
      'analysis',
      'prepared',
      'deliveries',
      'records',
      'reviews',
      'intake',
      'covers',
      'recordings',
      'passes',
    ]) {
      mkdirSync(join(/*turbopackIgnore: true*/ this.root, folder), { recursive: true });
    }
    restrictToOwner(/*turbopackIgnore: true*/ this.root, OWNERS_FOLDER);
  }

  /** From now on this very folder, with this database in it, is the one that is worked on. */
  use(): void {
    this.#inUse = this.#identity();
  }

  /** Whether what is worked on is still where it was: who deletes or replaces it leaves open files that nobody will find again. */
  get isThere(): boolean {
    return this.#inUse !== undefined && this.#identity() === this.#inUse;
  }

  /** Throws `data-folder-gone` where nothing that is saved now would be found again. */
  check(): void {
    if (!this.isThere) throw new AppError('data-folder-gone', { path: this.root });
  }

  #identity(): string | undefined {
    try {
      const parts = [this.root, this.database].map((path) => statSync(/*turbopackIgnore: true*/ path));
      return parts.map(({ dev, ino }) => `${dev}:${ino}`).join(' ');
    } catch {
      return undefined;
    }
  }

  get database(): string {
    return join(this.root, 'opsimeter.db');
  }

  get lock(): string {
    return join(this.root, 'lock.db');
  }

  /** A file on its way in. */
  incoming(id: string): string {
    return join(this.root, 'incoming', `${id}${PART}`);
  }

  /** Where uploads lie that go on after an interruption. */
  get uploads(): string {
    return join(this.root, 'uploads');
  }

  /** A source as it came; its name says nothing of its format. */
  source(sha256: string): string {
    return join(this.root, 'sources', sha256);
  }

  /** What a sound track of a source that is not PCM was decoded to. It can be made again. */
  decoded(sha256: string, track: number): string {
    return join(this.root, 'decoded', `${sha256}.${track}.wav`);
  }

  decodedPart(sha256: string, id: string): string {
    return join(this.root, 'decoded', `${sha256}.${id}${PART}`);
  }

  /** Series and waveforms of a source, by the engine that made them. */
  analysis(sha256: string): string {
    return join(this.root, 'analysis', `${sha256}.${ENGINE_VERSION}.bin`);
  }

  /** What a limiter needs to know of a source, by the engine and the layout that it was read with. It can be made again. */
  limiting(sha256: string, layoutId: string | null, variant = ''): string {
    return join(this.root, 'analysis', `${sha256}.${ENGINE_VERSION}.limiting.${layoutId ?? 'own'}${variant}.bin`);
  }

  /** What was found of a source as a treatment prepares it, by a key of that treatment and layout. It can be made again. */
  prepared(sha256: string, key: string): { report: string; analysis: string; limiting: (variant: string) => string } {
    const stem = join(this.root, 'prepared', `${sha256}.${ENGINE_VERSION}.${key}`);
    return {
      report: `${stem}.json`,
      analysis: `${stem}.bin`,
      limiting: (variant) => `${stem}.limiting${variant}.bin`,
    };
  }

  /** What is kept of a source at another rate, by a key of what is kept and the rate. It can be made again. */
  resampled(sha256: string, key: string): string {
    return join(this.root, 'prepared', `${sha256}.${key}.wav`);
  }

  /** On its way to be heard, and gone after it. */
  preview(id: string): string {
    return join(this.root, 'prepared', `${id}${PART}`);
  }

  /** A piece of a film's picture. It can be made again. */
  pictureSegment(sha256: string, number: number): string {
    return join(this.root, 'prepared', `${sha256}.picture.${number}.webm`);
  }

  get preparedFolder(): string {
    return join(this.root, 'prepared');
  }

  /** A picture, by its hash. */
  cover(sha256: string): string {
    return join(this.root, 'covers', sha256);
  }

  /** A line that is recorded, until it is taken in. */
  recording(id: string): string {
    return join(this.root, 'recordings', `${id}.wav`);
  }

  /** What was found of a recording while it grew, until its hash is known. */
  recordingAnalysis(id: string): string {
    return join(this.root, 'recordings', `${id}.bin${PART}`);
  }

  /** A pass through outboard gear as it was recorded, until it is taken in; and where all of them lie. */
  pass(id: string): string {
    return join(this.passes, `${id}.wav`);
  }

  get passes(): string {
    return join(this.root, 'passes');
  }

  /** What came back of a pass, on its way in. */
  alignedPass(id: string): string {
    return join(this.passes, `${id}.aligned${PART}`);
  }

  /** A folder of its own within it. */
  within(path: string): string {
    return join(this.root, path);
  }

  /** What a simulated intake has been sent, by the key of the transfer. */
  intake(intakeId: string, key = ''): string {
    return join(this.root, 'intake', intakeId, key);
  }

  deliveriesOf(jobId: string): string {
    return join(this.root, 'deliveries', jobId);
  }

  delivery(jobId: string, fileName: string): string {
    const folder = this.deliveriesOf(jobId);
    mkdirSync(folder, { recursive: true });
    return join(folder, fileName);
  }

  /** A delivery on its way out, in the folder that it will stand in. */
  deliveryPart(jobId: string, deliveryId: string): string {
    return this.delivery(jobId, `.${deliveryId}${PART}`);
  }

  /** A review copy: apart from what is handed over. */
  review(jobId: string, fileName: string): string {
    return join(this.root, 'reviews', jobId, fileName);
  }

  reviewPart(jobId: string, id: string): string {
    return this.review(jobId, `.${id}${PART}`);
  }

  recordsOf(jobId: string): string {
    return join(this.root, 'records', jobId);
  }

  /** A record that was written: a folder of its own. */
  record(jobId: string, folderName: string): string {
    const folder = this.recordsOf(jobId);
    mkdirSync(folder, { recursive: true });
    return join(folder, folderName);
  }

  /** A record on its way out, beside where it will stand: of each try its own. */
  recordPart(jobId: string, id: string): string {
    return this.record(jobId, `.${id}${PART}`);
  }

  /**
   * Removes what a process that was killed left half-written, and takes the extension off sources that were stored when
   * all were WAV. Call it before any work begins.
   */
  sweep(): void {
    const sources = join(this.root, 'sources');
    for (const name of readdirSync(sources)) {
      if (name.endsWith('.wav')) renameSync(join(sources, name), join(sources, name.slice(0, -4)));
    }
    for (const entry of readdirSync(this.root, { recursive: true, withFileTypes: true })) {
      if (entry.name.endsWith(PART)) rmSync(join(entry.parentPath, entry.name), { recursive: true, force: true });
    }
  }
}

/** Takes a folder's or a file's rights from all but its owner; where that is somebody else, or the disk has no rights, it stays as it is. */
export function restrictToOwner(path: string, mode: number): void {
  try {
    chmodSync(path, mode);
  } catch (error) {
    log.warn({ err: error }, 'what others may read here could not be set');
  }
}
