import { rm } from 'node:fs/promises';
import { leftoversOf } from './render-file';

/** Everything that may stand beside a delivery's temporary name while it is written. */
export function deliveryLeftovers(temporaryPath: string): string[] {
  const { rendered, decoded, chapters } = besides(temporaryPath);
  return [...leftoversOf(temporaryPath), ...leftoversOf(rendered), decoded, chapters];
}

/** Where it is rendered and decoded, and what is kept beside it meanwhile. */
export function besides(temporaryPath: string) {
  return {
    rendered: `${temporaryPath}.rendered.part`,
    decoded: `${temporaryPath}.decoded.part`,
    chapters: `${temporaryPath}.chapters.part`,
  };
}

/** One file for each channel. */
export function splitPaths(temporaryPath: string, channels: number): string[] {
  return Array.from({ length: channels }, (_, channel) => `${temporaryPath}.${channel + 1}.part`);
}

export async function removeAll(temporaryPath: string, channels: number): Promise<void> {
  for (const path of [...deliveryLeftovers(temporaryPath), ...splitPaths(temporaryPath, channels)]) {
    await rm(path, { force: true });
  }
}
