/** Codecs that a span can be heard through before anything is delivered in them. */
export const PREVIEW_CODECS = [
  { id: 'mp3-128', name: 'MP3 128 kbit/s' },
  { id: 'mp3-320', name: 'MP3 320 kbit/s' },
  { id: 'aac-128', name: 'AAC 128 kbit/s' },
  { id: 'opus-96', name: 'Opus 96 kbit/s' },
] as const;
export type PreviewCodecId = (typeof PREVIEW_CODECS)[number]['id'];

/** Of a longer span no more than its beginning is heard through a codec. */
export const MOST_PREVIEW_SECONDS = 60;
