import { pcmFormat } from './file-format';

export const wav = pcmFormat({
  name: 'WAV',
  extensions: ['wav'],
  mediaType: 'audio/wav',
  matches: ({ container, codec }) => (container === 'WAV' || container === 'RF64') && codec === 'PCM',
  tags: 'chunks',
  hasAdm: true,
});
