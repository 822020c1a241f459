import { sql } from 'drizzle-orm';
import type { WorkspaceFile } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { listLabels } from './labels.ts';
import { firstRow, rows } from './rows.ts';

type Of<K extends keyof WorkspaceFile> = WorkspaceFile[K] extends (infer T)[] ? T : never;

/** Everything that a workspace is set up with. What is secret stays here: keys, the secrets of codes, private templates of others. */
export async function workspaceFile(
  db: Executor,
  ws: string,
  user: string,
  nameOf: (kind: 'sequences' | 'files', thing: { id: string; name: string }) => string,
): Promise<WorkspaceFile> {
  const own = await firstRow<Omit<WorkspaceFile, 'format' | 'version'>>(
    db,
    sql`select name, zone, currency, daily_cap as "dailyCap", points, site_hosts as "siteHosts", style from workspaces where id = ${ws}`,
  );
  if (!own) throw new Error('There is no such workspace.');
  const all = <K extends keyof WorkspaceFile>(query: ReturnType<typeof sql>) => rows<Of<K> & object>(db, query);
  const where = sql`where workspace_id = ${ws}`;
  const sequences = await all<'sequences'>(
    sql`select id, name, status, live_version as "liveVersion", paused_at as "pausedAt" from sequences ${where} and template_id is null order by name, id`,
  );
  const files = await all<'files'>(sql`select id, name, mime, size, alt from files ${where} order by name, id`);
  return {
    format: 'ascenso-workspace',
    version: 1,
    ...own,
    attributes: await all<'attributes'>(
      sql`select key, label, type, options from attributes ${where} order by position, key`,
    ),
    lists: await all<'lists'>(
      sql`select id, name, public_name as "publicName", told from lists ${where} order by name, id`,
    ),
    segments: await all<'segments'>(sql`select id, name, folder, rule from segments ${where} order by name, id`),
    eventKinds: await all<'eventKinds'>(
      sql`select name, label, fields, sample from event_kinds ${where} order by name`,
    ),
    senders: await all<'senders'>(sql`select id, name, email, fields from senders ${where} order by name, id`),
    forms: await all<'forms'>(sql`select id, status, doc as form from forms ${where} order by id`),
    offers: await all<'offers'>(sql`select id, doc as offer from offers ${where} order by id`),
    shared: await all<'shared'>(sql`select id, name, blocks from shared_blocks ${where} order by name, id`),
    templates: await all<'templates'>(
      sql`select id, name, about, email from templates ${where} and (owner_id is null or owner_id = ${user}) order by name, id`,
    ),
    labels: await listLabels(db, ws),
    sequences: sequences.map((s) => ({ ...s, file: nameOf('sequences', s) })),
    files: files.map((f) => ({ ...f, file: nameOf('files', f) })),
  };
}
