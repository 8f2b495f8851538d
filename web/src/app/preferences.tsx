import { createContext, type ReactNode, useCallback, useContext, useMemo, useState } from "react";
import type { ThemeName } from "./theme";

/** What a person set on this tablet. It stays here; the server knows nothing of it. */
interface Preferences {
  theme: ThemeName;
  /** The name that new entries are signed with. */
  author: string;
  /** Whether single keys act as shortcuts. */
  keys: boolean;
  /** The channels that are shown as large figures. */
  gauges: string[];
}

interface PreferencesInUse extends Preferences {
  set: (change: Partial<Preferences>) => void;
}

const KEPT_AS = "gritty-ember.preferences";
const FIRST: Preferences = { theme: "bay", author: "", keys: true, gauges: [] };

function kept(): Preferences {
  try {
    return { ...FIRST, ...JSON.parse(localStorage.getItem(KEPT_AS) ?? "{}") };
  } catch {
    return FIRST;
  }
}

const Context = createContext<PreferencesInUse>({ ...FIRST, set: () => {} });

export function PreferencesProvider({ children }: { children: ReactNode }) {
  const [preferences, setPreferences] = useState(kept);
  const set = useCallback((change: Partial<Preferences>) => {
    setPreferences((now) => {
      const next = { ...now, ...change };
      localStorage.setItem(KEPT_AS, JSON.stringify(next));
      return next;
    });
  }, []);
  const value = useMemo(() => ({ ...preferences, set }), [preferences, set]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export const usePreferences = () => useContext(Context);
