import type { PassFields } from '@/core/outboard/pass';
import { openInput, reasonOf } from '@/features/common/capture/inputs';
import type { Playable } from '@/workers/browser/audition-player';
import { PassRun, type PassState, type Patch } from './pass-run';
import { post } from './requests';

/** One pass of a programme through outboard gear: played in real time, while what comes back is recorded beside it. */
export class OutboardPass {
  readonly #programmeId: string;
  #state: PassState = { kind: 'idle' };
  readonly #listeners = new Set<() => void>();
  /** Of the pass that is under way. */
  #run: PassRun | undefined;
  /** How often one was asked for or given up: what was waited for meanwhile may not be wanted any more. */
  #asked = 0;

  constructor(programmeId: string) {
    this.#programmeId = programmeId;
  }

  readonly get = (): PassState => this.#state;

  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  /** Begins a pass: what is played, at the gain that it has, and where it goes. */
  async start(playable: Playable, fields: PassFields, patch: Patch): Promise<void> {
    this.stop();
    const asked = this.#asked;
    this.#set({ kind: 'asking' });
    const { back } = patch;
    let stream: MediaStream | undefined;
    try {
      stream = back.kind === 'input' ? await openInput(back.deviceId) : undefined;
      const { passId } = await post<{ passId: string }>(`/api/programmes/${this.#programmeId}/passes`, fields);
      const run: PassRun = new PassRun(passId, playable, fields, patch, stream, (state) => {
        if (this.#run === run) this.#set(state);
      });
      if (asked !== this.#asked) {
        run.giveUp();
        return;
      }
      this.#run = run;
      run.start();
    } catch (error) {
      for (const track of stream?.getTracks() ?? []) track.stop();
      if (asked === this.#asked) this.#set({ kind: 'failed', reason: reasonOf(error) });
    }
  }

  /** Gives up the pass that is under way. */
  stop(): void {
    this.#asked++;
    this.#run?.giveUp();
    this.#run = undefined;
    this.#set({ kind: 'idle' });
  }

  #set(state: PassState): void {
    this.#state = state;
    for (const listener of this.#listeners) listener();
  }
}
