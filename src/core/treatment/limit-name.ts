import type { BindingLimit } from './solver';

const NAMES: Readonly<Record<BindingLimit, string>> = {
  target: 'the target',
  ceiling: 'the ceiling',
  'short-term': 'the short-term limit',
  momentary: 'the momentary limit',
  'noise-floor': 'the noise floor',
  reduction: 'the reduction allowed',
};

/** What stops a gain, in words. */
export function limitName(binding: BindingLimit): string {
  return NAMES[binding];
}
