'use server';

import * as z from 'zod';
import { type Spec, specSchema } from '@/core/spec/spec';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import { getServer } from '@/server/server';
import { copySpec, importSpec, retireSpec, saveSpec, specNamed } from '@/server/specs/specs';

const id = z.string().min(1).max(64);

/** Keeps a spec of one's own as the version after its own, unless another window has kept that meanwhile. */
export async function keepSpec(spec: Spec): Promise<ActionResult<string>> {
  return answer(() => {
    const wanted = specSchema.parse(spec);
    return saveSpec(getServer(), wanted, wanted.version).id;
  });
}

/** Makes a copy under a name of its own; answers with its id. */
export async function duplicateSpec(specId: string, name: string): Promise<ActionResult<string>> {
  return answer(() => {
    const server = getServer();
    const called = z.string().trim().min(1, 'Enter a name').max(80).parse(name);
    return copySpec(server, specNamed(server, id.parse(specId)), called).id;
  });
}

/** Brings in a spec that was kept as JSON. */
export async function bringInSpec(text: string): Promise<ActionResult<string>> {
  return answer(() => {
    const json = z
      .string()
      .max(100_000)
      .transform((own, context) => {
        try {
          return JSON.parse(own) as unknown;
        } catch {
          context.addIssue({ code: 'custom', message: 'this file is not JSON' });
          return z.NEVER;
        }
      })
      .parse(text);
    return importSpec(getServer(), json).id;
  });
}

export async function putSpecAway(specId: string): Promise<ActionResult> {
  return answer(() => {
    retireSpec(getServer(), id.parse(specId));
    return undefined;
  });
}
