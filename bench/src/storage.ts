import pg from 'pg';
import { unpackValues } from '../../server/src/db/packed.ts';

const [PEOPLE, DAYS] = [200, 60];

interface Kept {
  values: Buffer;
  dictionary: Buffer | null;
}

/**
 * What a person of the demo costs in a year, bytes on disk with every index: all tables that grow with people and what they
 * do, over the people and the days of the demo. And what an email was filled with as it is kept, against the same as JSON.
 */
export async function storage(): Promise<void> {
  const { startApp } = await import('../../scripts/lib/app.mjs');
  const app = await startApp('bench-app', { fresh: true, fast: true, days: DAYS, people: PEOPLE });
  const client = new pg.Client(app.url);
  try {
    await client.connect();
    // What the demo rewrote on its way would stand there as holes, of which a table this small has many for its size.
    await client.query('vacuum full');
    const { rows: sizes } = await client.query<{ table: string; bytes: string }>(
      `select coalesce(p.relname, c.relname) as table, sum(pg_total_relation_size(c.oid)) as bytes from pg_class c
       left join pg_inherits i on i.inhrelid = c.oid left join pg_class p on p.oid = i.inhparent
       where c.relkind = 'r' and c.relnamespace = current_schema()::regnamespace
         and coalesce(p.relname, c.relname) in ('people', 'memberships', 'consents', 'events', 'event_ids', 'visits', 'sends', 'traces', 'readings', 'orders', 'offer_grants', 'offer_uses', 'asks')
       group by 1 order by 2 desc`,
    );
    const { rows: people } = await client.query<{ n: string }>('select count(*) as n from people');
    const perYear = (bytes: number) => (bytes / Number(people[0]?.n) / DAYS) * 365;
    const all = sizes.reduce((n, s) => n + Number(s.bytes), 0);
    const { rows: kept } = await client.query<Kept>(
      'select s."values", p.dictionary from sends s join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash where s."values" is not null',
    );
    const packed = kept.reduce((n, k) => n + k.values.length, 0);
    const json = kept.reduce((n, k) => n + Buffer.byteLength(JSON.stringify(unpackValues(k.values, k.dictionary))), 0);
    for (const { table, bytes } of sizes)
      console.error(`  ${table}: ${(perYear(Number(bytes)) / 1000).toFixed(1)} kB a person and year`);
    const told = [
      {
        name: `storage: a person's year, ${kept.length} emails to ${people[0]?.n} people in ${DAYS} days, against the same with what emails were filled with as JSON`,
        value: Math.round(perYear(all)),
        baseline: Math.round(perYear(all - packed + json)),
      },
      {
        name: 'storage: what one email was filled with, against JSON',
        value: Math.round(packed / kept.length),
        baseline: Math.round(json / kept.length),
      },
    ];
    for (const { name, value, baseline } of told)
      console.log(
        JSON.stringify({ name, value, unit: 'bytes', baseline, ratio: Math.round((value / baseline) * 100) / 100 }),
      );
  } finally {
    await client.end();
    await app.stop();
  }
}
