import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { Edit } from '@ascenso/core';
import type { Aside } from './client.ts';

/** What one tab has not brought to the server yet of a sequence, with the revision that it goes on top of. */
export interface Kept {
  sequence: string;
  /** Name of the tab: each keeps its own. */
  tab: string;
  base: number;
  pending: readonly Edit[];
  aside: readonly Aside[];
}

interface Shape extends DBSchema {
  kept: { key: [string, string]; value: Kept; indexes: { sequence: string } };
}

/** This page, for as long as it lives: another page, and the same one loaded again, are others. */
export const TAB = crypto.randomUUID();
const lockOf = (tab: string) => `ascenso-tab-${tab}`;

let opened: Promise<IDBPDatabase<Shape>> | null = null;
function database(): Promise<IDBPDatabase<Shape>> {
  if (opened) return opened;
  // Held until the page ends, however it ends: by this others tell which pages are still there.
  if ('locks' in navigator) void navigator.locks.request(lockOf(TAB), () => new Promise(() => undefined));
  opened = openDB<Shape>('ascenso', 1, {
    upgrade: (db) => {
      db.createObjectStore('kept', { keyPath: ['sequence', 'tab'] }).createIndex('sequence', 'sequence');
    },
  });
  return opened;
}

let last: Promise<unknown> = Promise.resolve();

/** Keeps what this tab has pending and set aside, in the order of the calls; nothing of either ends the keeping. */
export function keep(sequence: string, pending: readonly Edit[], base: number, aside: readonly Aside[]): void {
  if (!('indexedDB' in globalThis)) return;
  const value: Kept = { sequence, tab: TAB, base, pending: [...pending], aside: [...aside] };
  last = last
    .then(
      async () => {
        const db = await database();
        if (value.pending.length + value.aside.length === 0) await db.delete('kept', [sequence, TAB]);
        else await db.put('kept', value);
        // A browser that keeps nothing for this page, as in some private windows: then it is as it was before.
      },
      () => undefined,
    )
    .catch(() => undefined);
}

/** Takes over what pages that are gone have left of a sequence: it is this page's from now on. */
export async function leftOf(sequence: string): Promise<Kept[]> {
  if (!('indexedDB' in globalThis)) return [];
  try {
    const db = await database();
    const held = 'locks' in navigator ? ((await navigator.locks.query()).held ?? []) : [];
    const alive = new Set(held.map((l) => l.name));
    const all = await db.getAllFromIndex('kept', 'sequence', sequence);
    return all.filter((k) => k.tab !== TAB && !alive.has(lockOf(k.tab)));
  } catch {
    return [];
  }
}

/** Forgets what a page that is gone had left. */
export const forget = async ({ sequence, tab }: Kept): Promise<void> => {
  await (await database()).delete('kept', [sequence, tab]);
};
