import type { RenderLayout } from '@/core/adm/render-layouts';
import type { AudioFormat } from '@/formats/audio-format';
import type { PcmHeader } from '@/formats/pcm-header';

/** A file's samples: the file itself, or what it was decoded to for as long as it is used. */
export interface Audio {
  file: string;
  path: string;
  header: PcmHeader;
  /** What the samples were decoded from, if they were. */
  origin: AudioFormat | undefined;
}

/** A programme of an audio definition for one layout: the first, unless it is named. */
export interface WantedRendering {
  layout: RenderLayout;
  programmeId?: string | undefined;
}
