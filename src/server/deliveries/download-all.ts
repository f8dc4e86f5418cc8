import type { Readable } from 'node:stream';
import { slug } from '@/core/delivery/file-name';
import type { ServerContext } from '../context';
import { zipOf } from '../storage/zip-of';
import { handedOver } from './handed-over';

/**
 * Everything of a job that can be handed over, as one ZIP.
 *
 * @throws AppError as `handedOver`; `file-missing` or `delivery-altered`
 */
export async function zipWritten(server: ServerContext, jobId: string): Promise<{ fileName: string; body: Readable }> {
  const { jobName, files, made } = await handedOver(server, jobId);
  return { fileName: `${slug(jobName)}.zip`, body: await zipOf(files, made) };
}
