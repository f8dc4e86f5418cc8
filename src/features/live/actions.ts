'use server';

import * as z from 'zod';
import type { LineFields } from '@/core/live/line';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import type { LineControl } from '@/server/http/line-operations';
import { LINE_OPERATIONS } from '@/server/http/line-operations';
import { controlLine } from '@/server/lines/control';
import { addLine, changeLine, removeLine } from '@/server/lines/lines';
import { getServer } from '@/server/server';

const id = z.string().min(1).max(64);

/** Sets up a line; answers with its id. */
export async function newLine(line: Omit<LineFields, 'alarms'>): Promise<ActionResult<string>> {
  return answer(() => addLine(getServer(), line));
}

/** Sets some of a line. What another window has set since it was seen is not overwritten. */
export async function keepLine(
  lineId: string,
  change: Partial<LineFields>,
  seen: Partial<LineFields>,
): Promise<ActionResult<string>> {
  return answer(() => {
    changeLine(getServer(), id.parse(lineId), change, seen);
    return lineId;
  });
}

export async function forgetLine(lineId: string): Promise<ActionResult> {
  return answer(() => {
    removeLine(getServer(), id.parse(lineId));
    return undefined;
  });
}

/** Turns a line on or off, pauses or resets it, sets a marker, or records it. */
export async function control(lineId: string, wish: LineControl): Promise<ActionResult> {
  return answer(async () => {
    const parsed = LINE_OPERATIONS.controlLine.body as z.ZodType<LineControl>;
    await controlLine(getServer(), id.parse(lineId), parsed.parse(wish));
    return undefined;
  });
}
