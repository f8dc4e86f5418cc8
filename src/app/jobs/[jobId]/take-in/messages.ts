/** Texts of the take-in page before its table is there. */

export const pageMessages = {
  takeIn: 'Take in',
  withoutFfmpeg:
    '○ FFmpeg is not installed: WAV and AIFF can be taken in; other formats cannot. Install it (Debian: apt-get install ffmpeg), or name it in OPSIMETER_FFMPEG, and start Opsimeter again.',
};
