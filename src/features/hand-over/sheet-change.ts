import type { SheetSettings, SheetUndo } from '@/server/deliveries/sheet-settings';

/**
 * What takes a change of a sheet back.
 *
 * @returns undefined where nothing has changed
 */
export function undoOf(before: SheetSettings, after: SheetSettings): SheetUndo | undefined {
  const rows = changedOf(before.rows, after.rows);
  const programmes = changedOf(before.programmes, after.programmes);
  const known = new Set(before.rows.map(({ id }) => id));
  const added = after.rows.flatMap(({ id }) => (known.has(id) ? [] : id));
  const isRenamed = before.nameTemplate !== after.nameTemplate;
  if (rows.length + programmes.length + added.length === 0 && !isRenamed) return undefined;
  return { rows, programmes, added, ...(isRenamed ? { nameTemplate: before.nameTemplate } : {}) };
}

/** Those that are gone, or not as they were. */
function changedOf<T extends { id: string }>(before: readonly T[], after: readonly T[]): T[] {
  const now = new Map(after.map((own) => [own.id, JSON.stringify(own)]));
  return before.filter((own) => now.get(own.id) !== JSON.stringify(own));
}
