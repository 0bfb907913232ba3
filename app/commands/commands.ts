import { useEffect, useRef } from "react";
import { createStore } from "zustand/vanilla";

/** Something that can be done, or gone to, by its words. */
export interface Command {
  text: string;
  /** the key that does the same */
  keys?: string;
  /** what it does, where its words alone do not say it */
  hint?: string;
  disabled?: boolean;
  run: () => void;
}
export interface CommandGroup {
  name: string;
  commands: readonly Command[];
}

/** What can be done on the screen that is shown, by who offers it. */
export const offered = createStore<ReadonlyMap<symbol, () => readonly CommandGroup[]>>(
  () => new Map(),
);

/**
 * Offers commands for as long as a component is shown.
 *
 * @param make  makes them when they are asked for
 */
export function useCommands(make: () => readonly CommandGroup[]): void {
  const latest = useRef(make);
  useEffect(() => {
    latest.current = make;
  });
  useEffect(() => {
    const key = Symbol("commands");
    offered.setState(new Map([...offered.getState(), [key, () => latest.current()]]), true);
    return () => {
      const rest = new Map(offered.getState());
      rest.delete(key);
      offered.setState(rest, true);
    };
  }, []);
}

/** All that can be done now; groups of the same name together, each command once. */
export function commandsNow(): CommandGroup[] {
  const byName = new Map<string, Map<string, Command>>();
  for (const groups of offered.getState().values())
    for (const { name, commands } of groups()) {
      const group = byName.get(name) ?? new Map<string, Command>();
      for (const command of commands)
        if (!command.disabled && !group.has(command.text)) group.set(command.text, command);
      byName.set(name, group);
    }
  return [...byName].map(([name, group]) => ({ name, commands: [...group.values()] }));
}
