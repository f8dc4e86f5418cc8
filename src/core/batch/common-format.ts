import { fittedFormat } from '../delivery/fitted-format';
import { type DeliveryFormat, deliveryFormatSchema } from '../delivery/format';
import type { Spec } from '../spec/spec';

/**
 * One format for programmes that belong together, as a spec takes it: where their rates differ, the one that most of them have; mono,
 * where some are mono and others stereo.
 *
 * @param programmes as their treatments leave them
 */
export function commonFormat(
  spec: Spec,
  programmes: readonly { channels: number; sampleRateHz: number }[],
): DeliveryFormat {
  const format = fittedFormat(deliveryFormatSchema.parse({ kind: 'wav' }), spec);
  const rates = programmes.map(({ sampleRateHz }) => sampleRateHz);
  const timesOf = (rate: number) => rates.filter((own) => own === rate).length;
  const usual = [...new Set(rates)].sort((a, b) => timesOf(b) - timesOf(a) || b - a);
  const areMixed = new Set(programmes.map(({ channels }) => channels)).size > 1;
  const mayBeMono = programmes.every(({ channels }) => channels <= 2);
  return {
    ...format,
    sampleRateHz: format.sampleRateHz ?? (usual.length > 1 ? (usual[0] ?? null) : null),
    arrangement: areMixed && mayBeMono ? 'mono' : format.arrangement,
  };
}
