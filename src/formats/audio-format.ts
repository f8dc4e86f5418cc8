/** Containers that are read without being decoded first. */
const PCM_CONTAINERS = ['WAV', 'RIFX', 'RF64', 'BW64', 'AIFF', 'AIFF-C'] as const;
export type PcmContainer = (typeof PCM_CONTAINERS)[number];

/** What a file's header tells of its audio definition. */
export interface AdmFacts {
  /** It names times within the programme, which hold only while the programme begins where it did. */
  hasTimes: boolean;
  /** Some of its tracks are more than channels for loudspeakers; absent in formats of older engines. */
  hasObjects?: boolean;
}

/** The format of an audio file, as pages, the command and certificates state it. */
export interface AudioFormat {
  /** One of PcmContainer, or a name that codecs/ has for what FFmpeg opens. */
  container: string;
  /** `PCM`, or a name that codecs/ has. */
  codec: string;
  sampleRateHz: number;
  /** Null where a lossy codec keeps no samples of any depth. */
  bitDepth: number | null;
  sampleFormat: 'integer' | 'float';
  /** Of a lossy codec, where it is known. */
  bitRateBps: number | null;
  /** Of a lossy codec, where its frames tell it; absent where they do not, and in formats of older engines. */
  bitRateMode?: 'constant' | 'variable';
  channels: number;
  /** Of a WAV or BW64 with an audio definition (ADM); absent of others, and in formats of older engines. */
  adm?: AdmFacts;
  /** The file's own channel mask; 0 where it states none. */
  channelMask: number;
  layout: string;
  frames: number;
  durationSeconds: number;
  /** Of a file with several sound tracks, which one this is, counted from 1, or the first of which were put together, and all of those. */
  track: { number: number; of: number; joined?: number[] } | null;
  /** Complaints of the decoder: parts that were damaged. */
  decodeErrors: number;
}

/** Whether a file is read through what it was decoded to. */
export function needsDecoding({ container }: AudioFormat): boolean {
  return !PCM_CONTAINERS.some((name) => name === container);
}

/** Whether a file is made of the chunks that WAV has, `bext` among them. */
export function isWavKind({ container }: AudioFormat): boolean {
  return container === 'WAV' || container === 'RIFX' || container === 'RF64' || container === 'BW64';
}

/** How a file keeps its samples, in a person's words: "24-bit", "32-bit float", "FLAC 24-bit", "MP3 320 kb/s". */
export function describeSamples(
  format: Pick<AudioFormat, 'codec' | 'bitDepth' | 'sampleFormat' | 'bitRateBps'>,
): string {
  const { codec, bitDepth, sampleFormat, bitRateBps } = format;
  if (bitDepth === null) return bitRateBps === null ? codec : `${codec} ${Math.round(bitRateBps / 1000)} kb/s`;
  const depth = `${bitDepth}-bit${sampleFormat === 'float' ? ' float' : ''}`;
  return codec === 'PCM' ? depth : `${codec} ${depth}`;
}

/** The container ahead of that, unless the codec says as much: "WAV · 24-bit", "MPEG-4 · AAC 192 kb/s", "FLAC 24-bit". */
export function describeContents(format: AudioFormat): string {
  const samples = describeSamples(format);
  return format.container === format.codec ? samples : `${format.container} · ${samples}`;
}
