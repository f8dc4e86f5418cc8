import { Counter, collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import type { ServerContext } from '../context';
import { freeBytes } from '../storage/free-space';
import type { EventLog } from '../tasks/event-log';
import { queueFigures } from './health';

const ANSWERED_WITHIN_SECONDS = [0.01, 0.03, 0.1, 0.3, 1, 3, 10, 30, 100];

/** Figures of this app, in the text format of Prometheus (version 0.0.4), for whoever draws them over time. */
export class Metrics {
  readonly #registry = new Registry();
  readonly #answers: Histogram<'operation' | 'method' | 'status'>;

  constructor({ db, folder, clock, events }: ServerContext & { events: EventLog }) {
    const registers = [this.#registry];
    collectDefaultMetrics({ register: this.#registry });
    this.#answers = new Histogram({
      name: 'opsimeter_answer_seconds',
      help: 'How long requests took to be answered.',
      labelNames: ['operation', 'method', 'status'],
      buckets: ANSWERED_WITHIN_SECONDS,
      registers,
    });
    const ended = new Counter({
      name: 'opsimeter_tasks_ended_total',
      help: 'Tasks that have ended, by what they came to.',
      labelNames: ['kind', 'state'],
      registers,
    });
    events.listen((event) => {
      if (event.kind !== 'edit' && ['done', 'failed', 'cancelled'].includes(event.state)) {
        ended.inc({ kind: event.kind, state: event.state });
      }
    });
    const gauge = (name: string, help: string, read: () => number | Promise<number>) =>
      new Gauge({
        name,
        help,
        registers,
        async collect() {
          this.set(await read());
        },
      });
    gauge('opsimeter_tasks_waiting', 'Tasks that wait.', () => queueFigures(db, clock.now()).waiting);
    gauge('opsimeter_tasks_running', 'Tasks that run.', () => queueFigures(db, clock.now()).running);
    gauge(
      'opsimeter_oldest_task_waits_seconds',
      'How long the task has waited that could be taken up longest.',
      () => queueFigures(db, clock.now()).oldestWaitsSeconds ?? 0,
    );
    gauge('opsimeter_free_bytes', 'Room on the disk of the data folder, beyond what is always left.', () =>
      freeBytes(folder.root).catch(() => 0),
    );
    gauge('opsimeter_data_folder_there', '1 while the data folder is where it was.', () => Number(folder.isThere));
  }

  answered(labels: { operation: string; method: string; status: number }, seconds: number): void {
    this.#answers.observe(labels, seconds);
  }

  /** In the text format of Prometheus, which writes "NaN" where the library writes "Nan". */
  async text(): Promise<string> {
    return (await this.#registry.metrics()).replaceAll(/ Nan$/gm, ' NaN');
  }
}
