import { useCallback, useState } from 'react';

/** A choice of how a screen is laid out, kept in this browser. What was kept and is no choice any more counts as none. */
export function useKept<T extends string>(key: string, of: readonly [T, ...T[]]): [T, (to: T) => void] {
  const [value, setValue] = useState<T>(() => {
    const kept = localStorage.getItem(key);
    return of.find((o) => o === kept) ?? of[0];
  });
  const keep = useCallback(
    (to: T) => {
      localStorage.setItem(key, to);
      setValue(to);
    },
    [key],
  );
  return [value, keep];
}
