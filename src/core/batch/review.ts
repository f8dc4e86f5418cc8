import {
  type DeliveryFormat,
  deliveryFormatSchema,
  formatProblems,
  type Programme,
  possibleRate,
} from '../delivery/format';
import type { Tags } from '../file-formats/tags';
import { plainName } from '../lineup/track-name';
import { reviewMessages as messages } from './messages';

/** What everybody can listen to, in the order in which it is tried: surround has no MP3. */
const KINDS = ['mp3', 'm4a', 'wav'] as const;
const MP3_KBPS = 256;

/** The file that a review copy is: small, and played anywhere. */
export function reviewFormat(programme: Programme): DeliveryFormat {
  const formats = KINDS.map((kind) =>
    deliveryFormatSchema.parse({
      kind,
      sampleRateHz: possibleRate(kind, programme.sampleRateHz),
      ...(kind === 'mp3' ? { bitRateKbps: MP3_KBPS } : {}),
    }),
  );
  const fitting = formats.find((format) => formatProblems(format, programme).length === 0);
  return fitting ?? (formats.at(-1) as DeliveryFormat);
}

/** What a review copy says of itself, so that nobody takes it for a release: it has no ISRC. */
export function reviewTags(tags: Tags, title: string): Tags {
  return { ...tags, title: messages.title(tags.title || title), comment: messages.comment, isrc: '' };
}

/** Its name, without an extension; numbered from the second on. */
export function reviewName(title: string, number: number): string {
  return `${plainName(title)} ${messages.inName(number)}`;
}
