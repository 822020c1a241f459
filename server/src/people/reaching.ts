import { sql } from 'drizzle-orm';
import { PAGE_EVENT } from '@ascenso/contracts';
import { MINUTE } from '@ascenso/core';
import type { Db } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { declarePages, siteHosts } from '../db/site.ts';
import { transact } from '../db/transact.ts';
import { readText, signText } from '../mail/token.ts';
import { storeInternalEvent } from './internal-events.ts';

// Pages of the workspace's own sites, reached by people whom one of our links or forms has named.

/** How long a name in an address, or in a cookie, is believed, ms. */
const BELIEVED = 90 * 24 * 60 * MINUTE;
/** The same page again within this is one visit, ms. */
const ONE_VISIT = 10 * MINUTE;

/** The signed name of a workspace that its pages carry: it opens nothing, and nobody can name another's. */
export const siteKey = (secret: string, ws: string): string => signText(secret, `site ${ws}`);
const readSite = (secret: string, key: string): string | undefined =>
  /^site (\S+)$/.exec(readText(secret, key) ?? '')?.[1];

/** The signed name of a person, for an address of one of the sites. `now` is the system clock. */
export const readerToken = (secret: string, ws: string, person: string, now: number): string =>
  signText(secret, `reader ${ws} ${person} ${now}`);

function readReader(secret: string, ws: string, token: string, now: number): string | undefined {
  const [, of, person, at] = /^reader (\S+) (\S+) (\d+)$/.exec(readText(secret, token) ?? '') ?? [];
  return of === ws && Math.abs(now - Number(at)) < BELIEVED ? person : undefined;
}

/** Whether a host is one of the sites, or lies below one. */
export const isOwnHost = (hosts: readonly string[], host: string): boolean =>
  hosts.some((h) => host === h || host.endsWith(`.${h}`));

/**
 * An address with the signed name of who follows it, where it leads to one of the sites; as it is where it does not. The
 * rest of it stays as it was written.
 */
export function namingReader(address: string, hosts: readonly string[], field: string, token: () => string): string {
  if (hosts.length === 0 || !URL.canParse(address) || !isOwnHost(hosts, new URL(address).host)) return address;
  const [, before = '', hash = ''] = /^([^#]*)(#.*)?$/s.exec(address) ?? [];
  return `${before}${before.includes('?') ? '&' : '?'}${field}=${token()}${hash}`;
}

export type Reached = 'kept' | 'repeated' | 'nobody' | 'no-site' | 'other-host';

/**
 * A page was reached. Only its host, path and title are kept: what stands behind the ? can be anybody's secret. `now` is
 * the business clock, `system` the other.
 */
export async function pageReached(
  db: Db,
  secret: string,
  told: { site: string; who: string; page: string; title: string },
  { now, system }: { now: number; system: number },
): Promise<Reached> {
  const ws = readSite(secret, told.site);
  if (ws === undefined) return 'no-site';
  const { host, pathname, origin } = new URL(told.page);
  if (!isOwnHost(await siteHosts(db, ws), host)) return 'other-host';
  const person = readReader(secret, ws, told.who, system);
  if (person === undefined) return 'nobody';
  return transact(db, async (tx) => {
    // Locked: the same page told twice at once is one visit.
    const known = await rows(
      tx,
      sql`select 1 from people where workspace_id = ${ws} and id::text = ${person} for update`,
    );
    if (known.length === 0) return 'nobody';
    const before = await rows(
      tx,
      sql`select 1 from events where workspace_id = ${ws} and person_id = ${person} and name = ${PAGE_EVENT}
            and occurred_at > ${now - ONE_VISIT} and payload->>'page' = ${pathname} and payload->>'site' = ${host} limit 1`,
    );
    if (before.length > 0) return 'repeated';
    await declarePages(tx, ws);
    const payload = { page: pathname, site: host, title: told.title.slice(0, 300), address: origin + pathname };
    await storeInternalEvent(tx, ws, person, PAGE_EVENT, payload, now);
    return 'kept';
  });
}
