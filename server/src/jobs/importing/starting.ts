import { sql } from 'drizzle-orm';
import { startedBy, type Happening, type Trigger, type Value } from '@ascenso/core';
import type { Executor, Tx } from '../../db/connect.ts';
import { rows } from '../../db/rows.ts';
import { openSequence, toldBy } from '../../people/entering.ts';
import { enterAll } from '../../people/passages.ts';
import { changes, merged } from './merging.ts';
import type { Job } from './job.ts';

/** What one row of a file does to one person: lists joined, tags added, attributes changed. */
export interface Done {
  n: number;
  person: string;
  joined: readonly string[];
  tagged: readonly string[];
  before: Readonly<Record<string, Value>>;
  after: Readonly<Record<string, Value>>;
}

const happenings = (d: Done): Happening[] => [
  ...d.joined.map((list) => ({ kind: 'list', list, what: 'joined' }) as const),
  ...d.tagged.map((tag) => ({ kind: 'tag', tag, what: 'added' }) as const),
  { kind: 'attribute', before: d.before, after: d.after },
];

const starts = (triggers: readonly Trigger[], d: Done): Happening | undefined =>
  happenings(d).find((it) => triggers.some((t) => startedBy(t, it)));

/** Sequences that can be entered by what a file does to people. Sweeps are no such thing: whoever comes in by a file is no newcomer. */
const startable = async (db: Executor, ws: string) =>
  (
    await rows<{ id: string; triggers: Trigger[] }>(
      db,
      sql`select id, triggers from sequences where workspace_id = ${ws} and status in ('live', 'paused') and live_version is not null`,
    )
  ).filter((s) => s.triggers.some((t) => t.kind === 'list' || t.kind === 'tag' || t.kind === 'attribute'));

const PAGE = 10_000;

/**
 * How many people of a file would start each sequence that can be entered, by its id. Rules of the sequence that keep some
 * of them out are asked when they enter.
 */
export async function countStarts(db: Executor, job: Job): Promise<Record<string, number>> {
  const open = await startable(db, job.ws);
  const counts: Record<string, number> = Object.fromEntries(open.map((s) => [s.id, 0]));
  if (open.length === 0) return {};
  for (let after = -1; ;) {
    const page = await rows<Done>(
      db,
      sql`select r.n, r.person_id as person, coalesce(p.attributes, '{}') as before, case when p.id is null then r.attributes else ${merged(job)} end as after,
            case when p.id is null then r.tags else array(select unnest(r.tags) except select unnest(p.tags)) end as tagged,
            case when p.id is null then r.lists else array(select l from unnest(r.lists) l where not exists (
              select 1 from memberships m where m.workspace_id = p.workspace_id and m.person_id = p.id and m.list_id = l and m.state in ('confirmed', 'left'))) end as joined
          from import_rows r left join people p on p.workspace_id = r.workspace_id and p.email = r.email
          where r.workspace_id = ${job.ws} and r.import_id = ${job.id} and r.fault is null and r.n > ${after} and (p.id is null or ${changes(job)})
          order by r.n limit ${PAGE}`,
    );
    for (const d of page) for (const s of open) if (starts(s.triggers, d)) counts[s.id] = (counts[s.id] ?? 0) + 1;
    const last = page.at(-1);
    if (!last || page.length < PAGE) break;
    after = last.n;
  }
  return Object.fromEntries(Object.entries(counts).filter(([, n]) => n > 0));
}

/** Starts the sequences that were asked for, for those whom the file brings to it. Answers how many have entered one. */
export async function startAsked(tx: Tx, job: Job, done: readonly Done[], now: number): Promise<number> {
  if (job.plan.starts.length === 0) return 0;
  const wanted = (await startable(tx, job.ws)).filter((s) => job.plan.starts.includes(s.id));
  const entered = new Set<string>();
  for (const { id, triggers } of wanted) {
    const open = await openSequence(tx, job.ws, id);
    if (!open) continue;
    const entrants = done.flatMap((d) => {
      const it = starts(triggers, d);
      const cause = it && { id: `import:${job.id}`, event: null, entry: {}, told: toldBy(it) };
      return cause ? [{ person: d.person, cause, at: now }] : [];
    });
    for (const person of await enterAll(tx, job.ws, open, entrants, now)) entered.add(person);
  }
  return entered.size;
}
