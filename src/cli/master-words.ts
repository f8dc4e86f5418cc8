/** The options of `master` beside those that other commands have too. */
export const MASTER_OPTIONS = {
  'spec-file': { type: 'string' },
  premaster: { type: 'boolean' },
  gain: { type: 'string' },
  ceiling: { type: 'string' },
  'max-reduction': { type: 'string' },
  bits: { type: 'string' },
  dither: { type: 'string' },
  start: { type: 'string' },
  end: { type: 'string' },
  'fade-in': { type: 'string' },
  'fade-out': { type: 'string' },
  'fade-shape': { type: 'string' },
  channels: { type: 'string' },
  'remove-dc': { type: 'boolean' },
} as const;
