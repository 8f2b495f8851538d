import { createContext, type ReactNode, useContext, useEffect, useMemo, useRef, useState } from "react";
import { usePreferences } from "./preferences";

export interface Shortcut {
  key: string;
  does: string;
  run: () => void;
}

interface Registry {
  add: (list: Shortcut[]) => () => void;
  list: Shortcut[];
}

const Context = createContext<Registry>({ add: () => () => {}, list: [] });

const typing = (target: EventTarget | null) =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

/** Single keys for whoever works from the keyboard. They rest while something is typed, and can be switched off. */
export function ShortcutProvider({ children }: { children: ReactNode }) {
  const [lists, setLists] = useState<Shortcut[][]>([]);
  const { keys } = usePreferences();
  const list = useMemo(() => lists.flat(), [lists]);
  const now = useRef(list);
  now.current = list;

  useEffect(() => {
    if (!keys) return;
    const press = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
      if (document.querySelector('[role="dialog"]')) return;
      const shortcut = now.current.findLast((one) => one.key === event.key);
      if (!shortcut) return;
      event.preventDefault();
      shortcut.run();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [keys]);

  const registry = useMemo(
    () => ({
      list,
      add: (added: Shortcut[]) => {
        setLists((before) => [...before, added]);
        return () => setLists((before) => before.filter((one) => one !== added));
      },
    }),
    [list],
  );
  return <Context.Provider value={registry}>{children}</Context.Provider>;
}

export const useShortcutList = () => useContext(Context).list;

/** Offers shortcuts while the component is on the screen. `list` may be made anew at every render. */
export function useShortcuts(list: Shortcut[]) {
  const { add } = useContext(Context);
  const latest = useRef(list);
  latest.current = list;
  const names = list.map((one) => `${one.key} ${one.does}`).join("\n");
  const adding = useRef(add);
  adding.current = add;
  useEffect(() => {
    const wrapped = names.split("\n").map((line, index) => ({
      key: line.slice(0, 1),
      does: line.slice(2),
      run: () => latest.current[index]?.run(),
    }));
    return adding.current(wrapped);
  }, [names]);
}
