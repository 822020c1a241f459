import { sql } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { KeptAnswers, RENEWED_MS } from './kept-answers.ts';

/**
 * Gives what `make` counts under a name, which holds all that the count depends on: kept a moment where counting takes long,
 * and never given when it is older than `most` ms.
 */
export type Kept = <T>(what: string, make: () => Promise<T>, most?: number) => Promise<T>;

/** No older than this a count is as good as one of now, ms: a page that stands open says no better. Its age is not told. */
export const AS_OF_NOW = RENEWED_MS;

/** Nothing is kept: what is decided upon is counted when it is asked for. */
export const countedNow: Kept = (_, make) => make();

/** More people than this are counted a moment ago rather than now. */
export const MANY_PEOPLE = 5_000;

/** How long it is believed how many people there are, ms. */
const BELIEVED_MS = 60_000;

/** Counts over all people, kept in memory where there are many. */
export interface Counts {
  get: <T>(key: string, make: () => Promise<T>, most?: number) => Promise<{ answer: T; age: number }>;
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
    if (!known || Date.now() >= known.until) {
      const large = look();
      known = { large, until: Date.now() + BELIEVED_MS };
      // What failed is asked again at the next look.
      large.catch(() => (known = null));
    }
    return known.large;
  };
  return {
    get: async <T>(key: string, make: () => Promise<T>, most?: number) =>
      (await isLarge())
        ? ((await answers.get(key, make, most)) as { answer: T; age: number })
        : { answer: await make(), age: 0 },
  };
}
