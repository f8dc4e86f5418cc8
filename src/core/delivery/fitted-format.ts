import { FILE_FORMATS, isLossy } from '../file-formats/file-formats';
import type { Spec } from '../spec/spec';
import type { DeliveryFormat } from './format';

/** What a spec asks of the file, in place of what it does not accept. */
export function fittedFormat(
  format: DeliveryFormat,
  { files, channels, sampleRatesHz, bitDepths, bitRate }: Spec,
): DeliveryFormat {
  const kind = files && !files.includes(format.kind) ? (files[0] ?? format.kind) : format.kind;
  const facts = FILE_FORMATS[kind];
  const depth = facts.depths.find((own) => !bitDepths || bitDepths.includes(own)) ?? null;
  const isDepthFine = kind === format.kind && (!bitDepths || (format.bitDepth && bitDepths.includes(format.bitDepth)));
  const isRateFine = !sampleRatesHz || (format.sampleRateHz !== null && sampleRatesHz.includes(format.sampleRateHz));
  return {
    ...format,
    kind,
    arrangement: channels?.length === 1 && channels[0] === 1 ? 'mono' : format.arrangement,
    sampleRateHz: isRateFine ? format.sampleRateHz : (sampleRatesHz?.[0] ?? null),
    bitDepth: isLossy(kind) ? null : isDepthFine ? format.bitDepth : bitDepths ? depth : null,
    mode: kind === format.kind ? format.mode : (bitRate?.modes.find((own) => facts.modes.includes(own)) ?? null),
    bitRateKbps: kind === format.kind ? format.bitRateKbps : null,
  };
}
