'use client';

import { useEffect, useState } from 'react';

/** Everything on the desk that has a key, in the order in which it is listed. */
export const COMMANDS = [
  { id: 'play', name: 'Play or pause', key: 'Space', group: 'Listen' },
  { id: 'loop', name: 'Loop the span', key: 'O', group: 'Listen' },
  { id: 'hear-other', name: 'Hear the previous version, or back', key: 'B', group: 'Listen' },
  { id: 'equal', name: 'Compare at equal loudness', key: 'E', group: 'Listen' },
  { id: 'mono', name: 'Listen in mono', key: 'X', group: 'Listen' },
  { id: 'removed', name: 'Hear what is removed', key: 'D', group: 'Listen' },
  { id: 'clear', name: 'Reset meters', key: 'Backspace', group: 'Listen' },
  { id: 'target', name: 'Meet the target', key: 'T', group: 'Set' },
  { id: 'ceiling', name: 'Peak at the ceiling', key: 'C', group: 'Set' },
  { id: 'headroom', name: '6 dB of headroom', key: 'H', group: 'Set' },
  { id: 'as-it-came', name: 'No gain', key: '0', group: 'Set' },
  { id: 'option-1', name: 'First option', key: '1', group: 'Set' },
  { id: 'option-2', name: 'Second option', key: '2', group: 'Set' },
  { id: 'option-3', name: 'Third option', key: '3', group: 'Set' },
  { id: 'review', name: 'Write a review copy', key: 'V', group: 'Set' },
  { id: 'undo', name: 'Undo', key: 'Control+Z', group: 'Set' },
  { id: 'redo', name: 'Redo', key: 'Control+Shift+Z', group: 'Set' },
  { id: 'next-over', name: 'Next over', key: 'N', group: 'Go to' },
  { id: 'previous-over', name: 'Previous over', key: 'Shift+N', group: 'Go to' },
  { id: 'next-clip', name: 'Next clipped run', key: 'R', group: 'Go to' },
  { id: 'loudest-3', name: 'Loudest 3 s', key: 'L', group: 'Go to' },
  { id: 'loudest-10', name: 'Loudest 10 s', key: 'Shift+L', group: 'Go to' },
  { id: 'quietest', name: 'Quietest half second', key: 'Q', group: 'Go to' },
  { id: 'first-sound', name: 'Start of the programme', key: 'Shift+ArrowLeft', group: 'Go to' },
  { id: 'last-sound', name: 'Last seconds of the programme', key: 'Shift+ArrowRight', group: 'Go to' },
  { id: 'next-marker', name: 'Next marker', key: '.', group: 'Go to' },
  { id: 'previous-marker', name: 'Previous marker', key: ',', group: 'Go to' },
  { id: 'span-start', name: 'Start the span here', key: '[', group: 'Trace' },
  { id: 'span-end', name: 'End the span here', key: ']', group: 'Trace' },
  { id: 'span-none', name: 'No span', key: 'Escape', group: 'Trace' },
  { id: 'keep-span', name: 'Trim to span, or undo the trim', key: 'K', group: 'Trace' },
  { id: 'marker', name: 'Add a marker', key: 'M', group: 'Trace' },
  { id: 'zoom-in', name: 'Zoom in', key: '+', group: 'Trace' },
  { id: 'zoom-out', name: 'Zoom out', key: '-', group: 'Trace' },
  { id: 'show-all', name: 'Show all', key: 'A', group: 'Trace' },
  { id: 'show-span', name: 'Show the span', key: 'S', group: 'Trace' },
  { id: 'height', name: 'Amplitude or decibels', key: 'Y', group: 'Trace' },
  { id: 'separate', name: 'Separate channels', key: 'I', group: 'Trace' },
  { id: 'look', name: 'Trace and rule large, or back', key: 'W', group: 'Look' },
  { id: 'set', name: 'Rule and treatment large, or back', key: 'J', group: 'Look' },
  { id: 'meters', name: 'Meters or gain', key: 'F', group: 'Look' },
  { id: 'say', name: 'Say the live readings', key: 'U', group: 'Look' },
  { id: 'analysis', name: 'Analysis beside the trace', key: 'P', group: 'Look' },
  { id: 'charts', name: 'Charts', key: 'G', group: 'Look' },
  { id: 'keys', name: 'Keys', key: '?', group: 'Look' },
] as const;

export type CommandId = (typeof COMMANDS)[number]['id'];
export type KeyMap = Readonly<Record<CommandId, string>>;

const STORED = 'opsimeter-keys';

const DEFAULTS = Object.fromEntries(COMMANDS.map(({ id, key }) => [id, key])) as KeyMap;

/** What a key press is called: `A`, `Shift+N`, `Control+Z`, `?`. */
export function keyName(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string {
  const key = event.key === ' ' ? 'Space' : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const isLetter = key.length > 1 || key.toLowerCase() !== key.toUpperCase();
  return [
    ...(event.ctrlKey || event.metaKey ? ['Control'] : []),
    ...(event.altKey ? ['Alt'] : []),
    // A sign that needs Shift is told by itself.
    ...(event.shiftKey && isLetter ? ['Shift'] : []),
    key,
  ].join('+');
}

/** What commands were called when keys were set for them. */
const OLD_IDS: Readonly<Partial<Record<CommandId, string>>> = { removed: 'taken', separate: 'apart' };

/** The keys, as they were set on this machine. */
export function useKeyMap() {
  const [keys, setKeys] = useState<KeyMap>(DEFAULTS);
  useEffect(() => {
    try {
      const stored = JSON.parse(localStorage.getItem(STORED) ?? '{}') as Record<string, unknown>;
      const known = COMMANDS.flatMap(({ id }) => {
        const key = stored[id] ?? stored[OLD_IDS[id] ?? ''];
        return typeof key === 'string' ? [[id, key]] : [];
      });
      setKeys({ ...DEFAULTS, ...Object.fromEntries(known) });
    } catch {
      // What can't be read is as good as nothing set.
    }
  }, []);
  const setKey = (id: CommandId, key: string) => {
    // One key, one command: it is taken from whatever had it.
    const others = COMMANDS.filter((command) => command.id !== id && keys[command.id] === key);
    const next = { ...keys, ...Object.fromEntries(others.map((command) => [command.id, ''])), [id]: key };
    setKeys(next);
    localStorage.setItem(STORED, JSON.stringify(next));
  };
  const reset = () => {
    setKeys(DEFAULTS);
    localStorage.removeItem(STORED);
  };
  return { keys, setKey, reset };
}

/** What commands do. */
export type Commands = Readonly<Partial<Record<CommandId, () => void>>>;

/** The commands of whatever is on the page. */
export class CommandRegistry {
  readonly #work = new Map<CommandId, () => void>();

  /** @returns takes them out again */
  register(commands: Commands): () => void {
    const entries = COMMANDS.flatMap(({ id }) => (commands[id] ? [[id, commands[id]] as const] : []));
    for (const [id, work] of entries) this.#work.set(id, work);
    return () => {
      for (const [id, work] of entries) if (this.#work.get(id) === work) this.#work.delete(id);
    };
  }

  workOf(id: CommandId): (() => void) | undefined {
    return this.#work.get(id);
  }
}

/** Runs what a key stands for, unless something is being typed or chosen, or a dialog is open. */
export function useCommandKeys(keys: KeyMap, registry: CommandRegistry): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      // What has the focus comes first; a closed list only keeps letters from itself.
      if (event.defaultPrevented && event.key.length > 1) return;
      const target = event.target as HTMLElement;
      if (
        target.closest(
          'input:not([type=checkbox]), textarea, select, [role="listbox"], [role="dialog"], [contenteditable]',
        )
      )
        return;
      const name = keyName(event);
      // Space presses what is focused.
      if (name === 'Space' && target.closest('button:not([role=combobox]), input')) return;
      const command = COMMANDS.find(({ id }) => keys[id] === name);
      const work = command && registry.workOf(command.id);
      if (!work) return;
      event.preventDefault();
      work();
    };
    // What was clicked lets go of the focus: the next Space is for playing, and not for that again.
    const letGo = (event: MouseEvent) => {
      if (event.detail === 0) return;
      const control = (event.target as HTMLElement).closest<HTMLElement>(
        'input[type=checkbox], button:not([aria-haspopup])',
      );
      if (control && !control.closest('[role="dialog"]')) control.blur();
    };
    window.addEventListener('keydown', press);
    window.addEventListener('click', letGo);
    return () => {
      window.removeEventListener('keydown', press);
      window.removeEventListener('click', letGo);
    };
  }, [keys, registry]);
}
