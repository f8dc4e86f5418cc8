import type { KeyboardEvent } from 'react';
import type { Selection } from './use-selection';

/** Names a row's box in the table, by the place of the row. */
export const ROW_BOX = 'data-row-box';

/**
 * The keys of the table, wherever one stands on the box of a row: arrows go from row to row, with Shift they select what they pass; Enter
 * opens, Delete removes, Escape clears, and Ctrl A selects all that is listed.
 *
 * @param show has a row drawn, whose box is there a moment later
 */
export function pressInTable(
  event: KeyboardEvent<HTMLTableElement>,
  {
    rows,
    idAt,
    show,
    selection,
    onRemove,
  }: {
    /** Places of the rows among all that the table shows, in order. */
    rows: readonly number[];
    idAt: (place: number) => string | undefined;
    show: (place: number) => void;
    selection: Selection;
    onRemove: () => void;
  },
): void {
  const box = event.target instanceof Element ? event.target.closest(`[${ROW_BOX}]`) : null;
  if (!box) return;
  const at = rows.indexOf(Number(box.getAttribute(ROW_BOX)));
  const isCommand = event.ctrlKey || event.metaKey;
  if (isCommand && event.key.toLowerCase() === 'a') void selection.all();
  else if (isCommand || event.altKey) return;
  else if (event.key === 'Enter') box.closest('tr')?.querySelector('a')?.click();
  else if (event.key === 'Delete') onRemove();
  else if (event.key === 'Escape') selection.clear();
  else {
    const to = targetOf(event.key, at, rows.length);
    const place = to === undefined ? undefined : rows[to];
    if (place === undefined) return;
    const table = event.currentTarget;
    if (event.shiftKey) {
      for (const id of [idAt(rows[at] as number), idAt(place)]) if (id !== undefined) selection.add(id);
    }
    show(place);
    requestAnimationFrame(() => table.querySelector<HTMLElement>(`[${ROW_BOX}="${place}"]`)?.focus());
  }
  event.preventDefault();
}

function targetOf(key: string, at: number, rows: number): number | undefined {
  if (key === 'ArrowDown') return Math.min(rows - 1, at + 1);
  if (key === 'ArrowUp') return Math.max(0, at - 1);
  if (key === 'Home') return 0;
  if (key === 'End') return rows - 1;
  return undefined;
}
