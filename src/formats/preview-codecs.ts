/** Codecs that a span can be heard through before anything is delivered in them. */
export const PREVIEW_CODECS = [
  { id: 'mp3-128', name: 'MP3 128 kbit/s', kind: 'mp3', mode: 'constant', bitRateKbps: 128 },
  { id: 'mp3-320', name: 'MP3 320 kbit/s', kind: 'mp3', mode: 'constant', bitRateKbps: 320 },
  { id: 'aac-128', name: 'AAC 128 kbit/s', kind: 'm4a', mode: 'average', bitRateKbps: 128 },
  { id: 'opus-96', name: 'Opus 96 kbit/s', kind: 'opus', mode: 'variable', bitRateKbps: 96 },
] as const;
export type PreviewCodecId = (typeof PREVIEW_CODECS)[number]['id'];

/** Of a longer span no more than its beginning is heard through a codec. */
export const MOST_PREVIEW_SECONDS = 60;
