import { bitRateArguments, type Encoder } from './encoder';

export const opus: Encoder = {
  arguments: (settings) => [
    ...['-c:a', 'libopus', ...bitRateArguments(settings), '-vbr', settings.mode === 'constant' ? 'off' : 'on'],
    ...['-f', 'opus'],
  ],
};
