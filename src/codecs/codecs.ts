/** The codecs and containers that FFmpeg opens for us, by its names and by those that people know. */

interface Codec {
  name: string;
  isLossless: boolean;
}

const CODECS: Readonly<Record<string, Codec>> = {
  flac: { name: 'FLAC', isLossless: true },
  alac: { name: 'ALAC', isLossless: true },
  wavpack: { name: 'WavPack', isLossless: true },
  mp3: { name: 'MP3', isLossless: false },
  mp2: { name: 'MP2', isLossless: false },
  aac: { name: 'AAC', isLossless: false },
  opus: { name: 'Opus', isLossless: false },
  vorbis: { name: 'Vorbis', isLossless: false },
  ac3: { name: 'AC-3', isLossless: false },
  eac3: { name: 'E-AC-3', isLossless: false },
};

export function codecOf(ffmpegName: string): Codec | undefined {
  if (/^pcm_/.test(ffmpegName)) return { name: 'PCM', isLossless: !/^pcm_(alaw|mulaw|vidc)$/.test(ffmpegName) };
  return CODECS[ffmpegName];
}

const CONTAINERS: Readonly<Record<string, string>> = {
  aac: 'ADTS',
  ac3: 'AC-3',
  caf: 'CAF',
  eac3: 'E-AC-3',
  flac: 'FLAC',
  'mov,mp4,m4a,3gp,3g2,mj2': 'MPEG-4',
  mp3: 'MPEG audio',
  mxf: 'MXF',
  ogg: 'Ogg',
  w64: 'Wave64',
  wv: 'WavPack',
};

const PICTURE_CODECS: Readonly<Record<string, string>> = {
  av1: 'AV1',
  dnxhd: 'DNxHD',
  h264: 'H.264',
  hevc: 'H.265',
  mjpeg: 'Motion JPEG',
  mpeg2video: 'MPEG-2',
  mpeg4: 'MPEG-4 Visual',
  prores: 'ProRes',
  vp8: 'VP8',
  vp9: 'VP9',
};

/** What people call a codec of pictures; FFmpeg's name where nothing better is known. */
export function pictureCodecOf(ffmpegName: string): string {
  return PICTURE_CODECS[ffmpegName] ?? ffmpegName;
}

/** @param majorBrand of a MPEG-4 or QuickTime file */
export function containerOf(ffmpegName: string, majorBrand: string | undefined): string {
  if (ffmpegName === 'matroska,webm') return 'Matroska';
  if (majorBrand?.trim() === 'qt') return 'QuickTime';
  return CONTAINERS[ffmpegName] ?? ffmpegName;
}
