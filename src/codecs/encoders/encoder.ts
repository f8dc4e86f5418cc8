import type { ResolvedFormat } from '@/core/delivery/format';

/** What an encoder has to know. */
export type EncoderSettings = Pick<ResolvedFormat, 'mode' | 'bitRateKbps' | 'sampleRateHz'>;

/** How a format is encoded by FFmpeg. */
export interface Encoder {
  /** Of the samples that a lossy encoder takes; absent where it takes floats, or keeps those that it is given. */
  depth?: 16;
  /** The encoder and the container that tells what it has put at the start and the end. */
  arguments(settings: EncoderSettings): string[];
}

export function bitRateArguments({ bitRateKbps }: EncoderSettings): string[] {
  return ['-b:a', `${bitRateKbps}k`];
}
