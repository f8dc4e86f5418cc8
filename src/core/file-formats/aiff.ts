import { pcmFormat } from './file-format';

export const aiff = pcmFormat({
  name: 'AIFF',
  extensions: ['aiff', 'aif', 'aifc'],
  mediaType: 'audio/aiff',
  matches: ({ container }) => container === 'AIFF' || container === 'AIFF-C',
  tags: 'library',
  hasAdm: false,
});
