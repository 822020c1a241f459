import { sql } from 'drizzle-orm';
import { ADVANCE_BATCH, advanceRound } from '../../server/src/engine/advance-loop.ts';
import { batch, rows } from '../../server/src/db/rows.ts';
import { newId } from '../../server/src/app/ids.ts';
import type { Connection } from '../../server/src/db/connect.ts';
import { inTurn } from './support/measure.ts';
import { letter } from './support/letter.ts';
import { addPeople, enterEverybody, live, NOW, openWorld } from './support/world.ts';

const PEOPLE = 10_000;

interface Claimed {
  workspace_id: string;
  id: string;
  sequence_id: string;
  person_id: string;
}

/** The least that a loop must do: claim a batch, write the visits back, fill the outbox, in one transaction. */
function bareRound(connection: Connection, hash: string): Promise<number> {
  return connection.db.transaction(async (tx) => {
    const claimed = await rows<Claimed>(
      tx,
      sql`select v.workspace_id, v.id, v.sequence_id, v.version, v.person_id, v.step, v.due_at from visits v
          where v.status = 'active' and v.next_due_at <= ${NOW} order by v.next_due_at, v.id limit ${ADVANCE_BATCH} for update of v skip locked`,
    );
    if (claimed.length === 0) return 0;
    const moved = claimed.map((r) => ({ w: r.workspace_id, id: r.id, due: NOW + 86_400_000 }));
    const sends = claimed.map((r) => ({
      w: r.workspace_id,
      id: newId(),
      visit: r.id,
      seq: r.sequence_id,
      person: r.person_id,
    }));
    await tx.execute(sql`
      with u as (
        update visits v set step = 'wait', due_at = n.due, next_due_at = n.due from jsonb_to_recordset(${batch(moved)}) as n(w uuid, id uuid, due bigint)
        where v.workspace_id = n.w and v.id = n.id)
      insert into sends (workspace_id, id, visit_id, sequence_id, version, step, person_id, program_hash, status, due_at, next_at)
      select n.w, n.id, n.visit, n.seq, 1, 'first', n.person, ${hash}, 'queued', ${NOW}, ${NOW}
      from jsonb_to_recordset(${batch(sends)}) as n(w uuid, id uuid, visit uuid, seq uuid, person uuid)
      on conflict do nothing`);
    return claimed.length;
  });
}

/** Visits per second through the whole loop: facts loaded, decided, traced; an email and a wait each. */
export async function advance(): Promise<void> {
  const { connection, ws, close } = await openWorld();
  try {
    const sequence = await live(connection, ws, [
      {
        id: 'first',
        on: true,
        note: '',
        kind: 'email',
        name: 'First',
        email: letter(),
        window: null,
        forWhom: null,
        thenTag: '',
      },
      { id: 'wait', on: true, note: '', kind: 'wait', amount: 1, unit: 'days', at: null },
      {
        id: 'second',
        on: true,
        note: '',
        kind: 'email',
        name: 'Second',
        email: letter(),
        window: null,
        forWhom: null,
        thenTag: '',
      },
    ]);
    await addPeople(connection, ws, PEOPLE);
    const all = async (round: () => Promise<number>) => {
      let total = 0;
      for (let done = await round(); done > 0; done = await round()) total += done;
      return total;
    };
    // Setting up is no part of the measure: it is done before each side runs.
    const prepared = (round: () => Promise<number>) => ({
      before: () => enterEverybody(connection, ws, sequence, 'first'),
      run: () => all(round),
    });
    await inTurn(
      `advance (an email and a wait, batches of ${ADVANCE_BATCH}; against the bare claim-and-write)`,
      'visits/s',
      prepared(() => advanceRound(connection, NOW)),
      prepared(() => bareRound(connection, 'none')),
    );
  } finally {
    await close();
  }
}
