import type { NumberedEvent } from '@/server/tasks/event-log';
import type { Touched } from '@/server/tasks/touched';

/** So many events are remembered that touched something. */
const MOST_REMEMBERED = 500;

/** What this window has heard, so that data which were made before can be brought up to date when they come. */
export class HeardEvents {
  /** Of those that touched something. */
  readonly #heard: NumberedEvent[] = [];
  /** All that touched something after this one were heard, or will be; undefined where no page has said as of when it is. */
  #from: number | undefined;
  #isListening = false;

  /** Begins to listen: returns the event after which; undefined where nothing is shown yet that could grow old. */
  begin(): number | undefined {
    this.#isListening = true;
    return this.#from;
  }

  hear(event: NumberedEvent): void {
    this.#from ??= event.id - 1;
    if (event.touched.length === 0) return;
    this.#heard.push(event);
    if (this.#heard.length > MOST_REMEMBERED) this.#from = this.#heard.shift()?.id ?? this.#from;
  }

  /** What was touched after an event, as far as it was heard; null where some of it was not, and will not be. */
  touchedAfter(asOf: number): readonly Touched[] | null {
    if (!this.#isListening) this.#from = Math.min(asOf, this.#from ?? asOf);
    if (this.#from !== undefined && asOf < this.#from) return null;
    return this.#heard.flatMap(({ id, touched }) => (id > asOf ? touched : []));
  }
}
