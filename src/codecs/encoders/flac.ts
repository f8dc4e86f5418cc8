import type { Encoder } from './encoder';

export const flac: Encoder = { arguments: () => ['-c:a', 'flac', '-f', 'flac'] };
