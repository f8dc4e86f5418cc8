import type { IncomingMessage } from 'node:http';

/** So many files are received at once: each takes some memory, however little of it comes. */
const MOST_AT_ONCE = 64;
/** Nothing comes any more from who says nothing for so long. */
const SILENT_MS = 60_000;
const LOOKED_AT_EVERY_MS = 1000;

interface OpenBody {
  bytesRead: number;
  atMs: number;
}

/** The bodies of requests that are on their way in. What comes no more is let go, so that nobody holds the place of others for ever. */
export class OpenBodies {
  readonly #open = new Map<IncomingMessage, OpenBody>();
  readonly #mostAtOnce: number;
  readonly #silentMs: number;
  #timer: NodeJS.Timeout | undefined;

  constructor({ mostAtOnce = MOST_AT_ONCE, silentMs = SILENT_MS } = {}) {
    this.#mostAtOnce = mostAtOnce;
    this.#silentMs = silentMs;
  }

  /** Watches the body of a request, if it has one; false where there are too many already. */
  admit(request: IncomingMessage): boolean {
    const { headers } = request;
    if (!Number(headers['content-length'] ?? 0) && !headers['transfer-encoding']) return true;
    if (this.#open.size >= this.#mostAtOnce) return false;
    this.#open.set(request, { bytesRead: request.socket.bytesRead, atMs: performance.now() });
    const leave = () => this.#open.delete(request);
    request.once('end', leave).once('close', leave);
    this.#timer ??= setInterval(() => this.#look(), Math.min(LOOKED_AT_EVERY_MS, this.#silentMs / 4)).unref();
    return true;
  }

  #look(): void {
    const nowMs = performance.now();
    for (const [request, body] of this.#open) {
      const { bytesRead } = request.socket;
      // What has come and was not asked for yet waits for us: its sender has to wait too.
      if (bytesRead > body.bytesRead || request.readableLength > 0) Object.assign(body, { bytesRead, atMs: nowMs });
      else if (nowMs - body.atMs > this.#silentMs) request.destroy();
    }
    if (this.#open.size > 0) return;
    clearInterval(this.#timer);
    this.#timer = undefined;
  }
}
