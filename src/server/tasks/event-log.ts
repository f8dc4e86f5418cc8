import { EventEmitter } from 'node:events';
import type { Clock } from './queue';
import type { ServerEvent } from './touched';

/** So many events that touched something can be told again. */
const MOST_KEPT = 1000;

/** An event, and its place among all that ever were. */
export type NumberedEvent = ServerEvent & { id: number };

/**
 * What happens to tasks, and what is set, numbered, so that whoever missed some can be told them again. Numbers go on growing when the server
 * is started anew.
 */
export class EventLog {
  readonly #emitter = new EventEmitter<{ event: [NumberedEvent] }>().setMaxListeners(0);
  /** Those that touched something: how far a task was is told by the next that says so. */
  readonly #kept: NumberedEvent[] = [];
  /** All that touched something after this one are kept. */
  #keptAfterId: number;
  #lastId: number;

  constructor(clock: Clock) {
    // More than any earlier server has counted to: it would have to tell of a thousand in every millisecond.
    this.#lastId = clock.now() * 1000;
    this.#keptAfterId = this.#lastId;
  }

  /** Id of the latest event: what is read from the database now, is as of it. */
  get lastId(): number {
    return this.#lastId;
  }

  publish(event: ServerEvent): void {
    const numbered = { ...event, id: ++this.#lastId };
    if (event.touched.length > 0) this.#kept.push(numbered);
    if (this.#kept.length > MOST_KEPT) this.#keptAfterId = this.#kept.shift()?.id ?? this.#keptAfterId;
    this.#emitter.emit('event', numbered);
  }

  /** What touched something after an event; null where that is not known any more, or never was. */
  after(id: number): readonly NumberedEvent[] | null {
    if (id < this.#keptAfterId || id > this.#lastId) return null;
    return this.#kept.filter((event) => event.id > id);
  }

  /** Calls the listener for every event, until the function that is returned is called. */
  listen(listener: (event: NumberedEvent) => void): () => void {
    this.#emitter.on('event', listener);
    return () => this.#emitter.off('event', listener);
  }
}
