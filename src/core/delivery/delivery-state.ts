/**
 * `open`: its file waits to be written, or is being written. `written`: the file is there, verified or not. `ended`: its writing
 * failed or was cancelled. `discarded`: its file was thrown away.
 */
export const DELIVERY_STATES = ['open', 'written', 'ended', 'discarded'] as const;
export type DeliveryState = (typeof DELIVERY_STATES)[number];

/** What can happen to a delivery, from which states, and what it is then. Nothing else changes its state. */
export const DELIVERY_EVENTS = {
  /** Its file was written, measured, named and recorded. */
  written: { from: 'open', to: 'written' },
  /** The task that writes it failed, or was cancelled. */
  ended: { from: 'open', to: 'ended' },
  /** Somebody has it tried again. */
  retried: { from: 'ended', to: 'open' },
  /** It misses its spec, and somebody hands it over all the same. */
  accepted: { from: 'written', to: 'written' },
  /** It misses its spec, and its file is thrown away: by a person, or once another one stands in its place. */
  discarded: { from: 'written', to: 'discarded' },
} as const satisfies Record<string, { from: DeliveryState; to: DeliveryState }>;
export type DeliveryEvent = keyof typeof DELIVERY_EVENTS;
