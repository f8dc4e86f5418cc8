import { bitRateArguments, type Encoder } from './encoder';

export const mp2: Encoder = {
  // It takes integers of 16 bits only, and would drop the rest without dither.
  depth: 16,
  arguments: (settings) => ['-c:a', 'mp2', ...bitRateArguments(settings), '-f', 'mp2'],
};
