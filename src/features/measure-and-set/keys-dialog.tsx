'use client';

import { Keyboard } from 'lucide-react';
import { type KeyboardEvent, useState } from 'react';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { COMMANDS, type CommandId, type KeyMap, keyName } from './commands';
import { keysDialogMessages as messages } from './messages';
import { tourMessages } from './tour/messages';

/** Every key of the desk; each can be changed where it collides with something. */
export function KeysDialog({
  keys,
  onKey,
  onReset,
  onTour,
  isOpen,
  onOpenChange,
}: {
  keys: KeyMap;
  onKey: (id: CommandId, key: string) => void;
  onReset: () => void;
  onTour: () => void;
  isOpen: boolean;
  onOpenChange: (isOpen: boolean) => void;
}) {
  const [asked, setAsked] = useState<CommandId>();
  const press = (event: KeyboardEvent, id: CommandId) => {
    if (asked !== id || ['Shift', 'Control', 'Alt', 'Meta', 'Tab'].includes(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key !== 'Escape') onKey(id, keyName(event));
    setAsked(undefined);
  };
  const groups = [...new Set(COMMANDS.map(({ group }) => group))];
  return (
    <Dialog
      trigger={
        <button
          type="button"
          aria-label={messages.keys}
          aria-keyshortcuts={keys.keys}
          title={messages.keysHint}
          className="cursor-pointer rounded-control border border-hair bg-sheet p-1.5 hover:border-stock-3"
        >
          <Keyboard size={16} aria-hidden />
        </button>
      }
      title={messages.keys}
      description={messages.howToChange}
      isOpen={isOpen}
      onOpenChange={onOpenChange}
    >
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reachable by keyboard. */}
      <div tabIndex={0} className="-mr-2 min-h-0 columns-2 gap-6 overflow-y-auto pr-2">
        {groups.map((group) => (
          <section key={group} className="mb-3 break-inside-avoid">
            <h3 className="mb-1 text-xs text-mute">{group}</h3>
            <ul>
              {COMMANDS.filter((command) => command.group === group).map(({ id, name }) => (
                <li key={id} className="flex items-center justify-between gap-2 border-b border-hair py-px text-[13px]">
                  {name}
                  <button
                    type="button"
                    aria-label={messages.changeKeyOf(name, keys[id] || messages.noKey)}
                    onClick={() => setAsked(id)}
                    onKeyDown={(event) => press(event, id)}
                    onBlur={() => setAsked(undefined)}
                    className="min-w-8 cursor-pointer rounded-sm border border-hair bg-paper px-1.5 text-center font-mono text-xs hover:border-stock-3"
                  >
                    {asked === id ? messages.pressAKey : keys[id] || '—'}
                  </button>
                </li>
              ))}
            </ul>
          </section>
        ))}
      </div>
      <div className="flex gap-4">
        <Button kind="quiet" onClick={onReset}>
          {messages.resetAllKeys}
        </Button>
        <Button kind="quiet" onClick={onTour}>
          {tourMessages.take}
        </Button>
      </div>
    </Dialog>
  );
}
