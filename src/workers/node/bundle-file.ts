import { closeSync, fsyncSync, openSync, readSync, renameSync, rmSync, writeSync } from 'node:fs';
import { threadId } from 'node:worker_threads';
import { type BundledArray, type BundlePlan, headBytes, readPlan } from '@/formats/array-bundle';

/**
 * Writes a bundle of arrays part by part, in any order. It appears under its name only when it is whole; an older one is
 * replaced.
 */
export class BundleWriter<Meta> {
  readonly #path: string;
  readonly #temporaryPath: string;
  readonly #file: number;
  readonly #plan: BundlePlan<Meta>;
  #isOpen = true;

  constructor(path: string, plan: BundlePlan<Meta>) {
    this.#path = path;
    this.#temporaryPath = `${path}.${process.pid}.${threadId}.part`;
    this.#plan = plan;
    this.#file = openSync(this.#temporaryPath, 'w');
    try {
      this.#write(plan.head, 0);
    } catch (error) {
      this.abandon();
      throw error;
    }
  }

  put(name: string, values: BundledArray, firstIndex: number): void {
    const plan = this.#plan.arrays[name];
    if (!plan || firstIndex + values.length > plan.length) throw new RangeError(`${name} does not fit its plan`);
    this.#write(
      new Uint8Array(values.buffer, values.byteOffset, values.byteLength),
      plan.offset + firstIndex * values.BYTES_PER_ELEMENT,
    );
  }

  finish(): void {
    fsyncSync(this.#file);
    this.#close();
    renameSync(this.#temporaryPath, this.#path);
  }

  /** Also of one that could not be finished. */
  abandon(): void {
    this.#close();
    rmSync(this.#temporaryPath, { force: true });
  }

  /** Once: by then its number may be that of a file that another thread has opened. */
  #close(): void {
    if (!this.#isOpen) return;
    this.#isOpen = false;
    closeSync(this.#file);
  }

  #write(bytes: Uint8Array, offset: number): void {
    for (let at = 0; at < bytes.length; ) at += writeSync(this.#file, bytes, at, bytes.length - at, offset + at);
  }
}

/** A bundle on disk of which parts are read when they are asked for, at once. Close it when done. */
export class BundleFile<Meta> {
  readonly #file: number;
  readonly #plan: BundlePlan<Meta>;

  constructor(path: string) {
    this.#file = openSync(path, 'r');
    try {
      const first = new Uint8Array(4);
      this.#fill(first, 0);
      const head = new Uint8Array(headBytes(first));
      this.#fill(head, 0);
      this.#plan = readPlan<Meta>(head);
    } catch (error) {
      closeSync(this.#file);
      throw error;
    }
  }

  get meta(): Meta {
    return this.#plan.meta;
  }

  lengthOf(name: string): number {
    return this.#planOf(name).length;
  }

  /** Fills an array of the type that the bundle has with the values from an index on. */
  read(name: string, target: BundledArray, firstIndex: number): void {
    const bytes = new Uint8Array(target.buffer, target.byteOffset, target.byteLength);
    this.#fill(bytes, this.#planOf(name).offset + firstIndex * target.BYTES_PER_ELEMENT);
  }

  close(): void {
    closeSync(this.#file);
  }

  #planOf(name: string) {
    const plan = this.#plan.arrays[name];
    if (!plan) throw new RangeError(`the bundle has no ${name}`);
    return plan;
  }

  #fill(bytes: Uint8Array, offset: number): void {
    for (let at = 0; at < bytes.length; ) {
      const read = readSync(this.#file, bytes, at, bytes.length - at, offset + at);
      if (read === 0) throw new RangeError('the bundle ends early');
      at += read;
    }
  }
}
