import { useCallback, useState } from "react";

const PREFIX = "gritty-ember.draft.";

/**
 * State of a form that survives a reload, a closed sheet and a lost connection. It is kept on this tablet until
 * `forget` is called, which is once the entry is acknowledged.
 */
export function useDraft<T extends object>(name: string, first: T): [T, (change: Partial<T>) => void, () => void] {
  const key = PREFIX + name;
  const [value, setValue] = useState<T>(() => {
    try {
      return { ...first, ...JSON.parse(localStorage.getItem(key) ?? "{}") };
    } catch {
      return first;
    }
  });
  const change = useCallback(
    (part: Partial<T>) =>
      setValue((now) => {
        const next = { ...now, ...part };
        try {
          localStorage.setItem(key, JSON.stringify(next));
        } catch {
          // A tablet without room keeps the text on the screen at least.
        }
        return next;
      }),
    [key],
  );
  const forget = useCallback(() => localStorage.removeItem(key), [key]);
  return [value, change, forget];
}
