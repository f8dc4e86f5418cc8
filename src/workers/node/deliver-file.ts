import { nextPass, type Try } from '@/core/delivery/next-pass';
import { AppError } from '@/core/errors/app-error';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { specPeak } from '@/core/spec/requirements/peak';
import type { Delivered, DeliverOptions, DeliveryOrder, DeliverySteps } from './delivery-order';
import { removeAll } from './delivery-paths';
import { finish } from './finish-delivery';
import { writeOnce } from './write-delivery';

/**
 * Writes a delivery and measures it from what was written. Where it may be moved and has missed its target, or where coding has
 * lifted its peaks above the ceiling, it is written again. Whatever goes wrong, nothing is left at the temporary names;
 * but for what a thread or process leaves that is ended, see `deliveryLeftovers`.
 *
 * @throws AppError also `would-clip`, where samples would not fit into the file
 */
export async function deliver(
  order: DeliveryOrder,
  steps: DeliverySteps,
  options: DeliverOptions = {},
): Promise<Delivered> {
  const tries: Try[] = [];
  let { treatment, landing } = order;
  try {
    for (;;) {
      const { signal } = options;
      if (signal?.aborted) throw new AppError('cancelled', {});
      const written = await writeOnce(order, treatment, steps, options);
      const { readings } = written.report;
      const last = {
        treatment,
        landing,
        gainDb: treatment.gainDb,
        ceilingDbtp: treatment.limit?.ceilingDbtp ?? null,
        loudness: specLoudness(readings, order.spec),
        peak: specPeak(readings, order.spec),
        greatestDb: written.rendered.reduction?.greatestDb ?? 0,
      };
      tries.push(last);
      const next = nextPass(order, tries);
      if (!next) {
        const passes = tries.map(({ gainDb, ceilingDbtp, loudness, peak }) => ({
          gainDb,
          ceilingDbtp,
          loudness,
          peak,
        }));
        return { ...(await finish(order, written, signal)), treatment, passes };
      }
      ({ treatment, landing } = next);
      await removeAll(order.temporaryPath, order.format.channels);
    }
  } catch (error) {
    await removeAll(order.temporaryPath, order.format.channels);
    throw error;
  }
}
