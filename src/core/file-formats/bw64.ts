import { pcmFormat } from './file-format';

export const bw64 = pcmFormat({
  name: 'BW64',
  extensions: ['wav'],
  mediaType: 'audio/wav',
  matches: ({ container }) => container === 'BW64',
  tags: 'chunks',
  hasAdm: true,
});
