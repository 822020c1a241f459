import { useSyncExternalStore } from 'react';

// Figures may come from a copy of the database that is a little behind, or from a count of a moment ago: the server says so
// with each answer (Age, in seconds). Kept here for all of them, so that no screen can forget to tell.

interface OldAnswer {
  /** When it was counted, epoch ms of this machine. */
  countedAt: number;
  /** The page that asked for it. */
  page: string;
}

const old = new Map<string, OldAnswer>();
const listeners = new Set<() => void>();

/** Takes note of how old the answer to an address is, s; 0 where it is of now. */
export function noteAge(url: string, seconds: number): void {
  const had = old.delete(url);
  if (seconds > 0) old.set(url, { countedAt: Date.now() - seconds * 1000, page: window.location.pathname });
  if (had || seconds > 0) for (const tell of listeners) tell();
}

const subscribe = (tell: () => void) => {
  listeners.add(tell);
  return () => void listeners.delete(tell);
};

/** When the oldest of what a page shows was counted, epoch ms; null where all of it is of now. */
export function useOldest(page: string): number | null {
  return useSyncExternalStore(subscribe, () => {
    const own = [...old.values()].filter((o) => o.page === page).map((o) => o.countedAt);
    return own.length === 0 ? null : Math.min(...own);
  });
}
