/** The format of an audio file, as pages, the command and certificates state it. */
export interface AudioFormat {
  container: 'WAV' | 'RIFX' | 'RF64' | 'BW64';
  codec: 'PCM';
  sampleRateHz: number;
  bitDepth: number;
  sampleFormat: 'integer' | 'float';
  channels: number;
  /** The file's own channel mask; 0 where it states none. */
  channelMask: number;
  layout: string;
  frames: number;
  durationSeconds: number;
}
