'use client';

import { createContext, type ReactNode, useContext, useEffect, useState } from 'react';
import { type CommandId, CommandRegistry, type Commands, useCommandKeys } from '../commands';
import { type DeskGiven, useDeskState } from './use-desk-state';

type DeskState = ReturnType<typeof useDeskState>;

const DeskContext = createContext<DeskState | undefined>(undefined);
const Registry = createContext<CommandRegistry | undefined>(undefined);

/** What the panels of one programme's desk share, and the keys that they answer to. */
export function DeskProvider({ children, ...given }: DeskGiven & { children: ReactNode }) {
  const desk = useDeskState(given);
  const [registry] = useState(() => new CommandRegistry());
  useCommandKeys(desk.keyMap.keys, registry);
  return (
    <Registry value={registry}>
      <DeskContext value={desk}>{children}</DeskContext>
    </Registry>
  );
}

export function useDesk(): DeskState {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error('useDesk needs a DeskProvider');
  return desk;
}

/** Says what a panel's commands do, for as long as it is there. */
export function useDeskCommands(commands: Commands): void {
  const registry = useContext(Registry);
  useEffect(() => registry?.register(commands));
}

/** Does what a key does, for what is pressed by hand. */
export function useRunCommand(): (id: CommandId) => void {
  const registry = useContext(Registry);
  return (id) => registry?.workOf(id)?.();
}
