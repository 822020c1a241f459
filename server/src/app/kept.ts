import { sql } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { KeptAnswers } from './kept-answers.ts';

/** Gives what `make` counts under a name, which holds all that the count depends on: kept a moment where counting takes long. */
export type Kept = <T>(what: string, make: () => Promise<T>) => Promise<T>;

/** Nothing is kept: what is decided upon is counted when it is asked for. */
export const countedNow: Kept = (_, make) => make();

/** More people than this are counted a moment ago rather than now. */
export const MANY_PEOPLE = 5_000;

/** How long it is believed how many people there are, ms. */
const BELIEVED_MS = 60_000;

/** Counts over all people, kept in memory where there are many; none is older than the few people of a small house need. */
export interface Counts {
  get: <T>(key: string, make: () => Promise<T>) => Promise<{ answer: T; age: number }>;
}

/** Counts that are kept once the database holds more than `beyond` people, as far as it has estimated that itself. */
export function countsBeyond(beyond: number, db: Executor): Counts {
  const answers = new KeptAnswers<unknown>();
  let known: { large: Promise<boolean>; until: number } | null = null;
  const look = async () => {
    const table = await firstRow<{ n: number }>(
      db,
      sql`select reltuples::float8 as n from pg_class where oid = 'people'::regclass`,
    );
    return (table?.n ?? 0) > beyond;
  };
  const isLarge = () => {
    if (!known || Date.now() >= known.until) known = { large: look(), until: Date.now() + BELIEVED_MS };
    return known.large;
  };
  return {
    get: async <T>(key: string, make: () => Promise<T>) =>
      (await isLarge())
        ? ((await answers.get(key, make)) as { answer: T; age: number })
        : { answer: await make(), age: 0 },
  };
}
