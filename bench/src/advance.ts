import { sql } from 'drizzle-orm';
import { ADVANCE_BATCH, advanceRound } from '../../server/src/engine/advance-loop.ts';
import { batch, rows } from '../../server/src/db/rows.ts';
import { newId } from '../../server/src/app/ids.ts';
import type { Step } from '@ascenso/core';
import type { Connection } from '../../server/src/db/connect.ts';
import { inTurn } from './support/measure.ts';
import { emailStep, waitStep } from './support/steps.ts';
import { addPeople, enterEverybody, live, NOW, openWorld } from './support/world.ts';

const PEOPLE = 10_000;

interface Claimed {
  workspace_id: string;
  id: string;
  sequence_id: string;
  person_id: string;
}

/** The least that a loop must do: claim a batch, write the visits back, fill the outbox, in one transaction. */
function bareRound(connection: Connection, ws: string, hash: string): Promise<number> {
  return connection.db.transaction(async (tx) => {
    const claimed = await rows<Claimed>(
      tx,
      sql`select v.workspace_id, v.id, v.sequence_id, v.version, v.person_id, v.step, v.due_at from visits v
          where v.workspace_id = ${ws} and v.status = 'active' and v.wake_at <= ${NOW} order by v.wake_at, v.id limit ${ADVANCE_BATCH} for update of v skip locked`,
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
        update visits v set step = 'wait', due_at = n.due, wake_at = n.due from jsonb_to_recordset(${batch(moved)}) as n(w uuid, id uuid, due bigint)
        where v.workspace_id = n.w and v.id = n.id)
      insert into sends (workspace_id, id, visit_id, sequence_id, version, step, person_id, program_hash, status, due_at, next_at)
      select n.w, n.id, n.visit, n.seq, 1, 'first', n.person, ${hash}, 'queued', ${NOW}, ${NOW}
      from jsonb_to_recordset(${batch(sends)}) as n(w uuid, id uuid, visit uuid, seq uuid, person uuid)
      on conflict do nothing`);
    return claimed.length;
  });
}

/** The loop over one sequence against the bare claim-and-write, everybody standing before its first step. */
async function measure(
  name: string,
  steps: Step[],
  fill: (connection: Connection, ws: string) => Promise<void>,
): Promise<void> {
  const { connection, ws, close } = await openWorld();
  try {
    const sequence = await live(connection, ws, steps);
    await addPeople(connection, ws, PEOPLE);
    await fill(connection, ws);
    const all = async (round: () => Promise<number>) => {
      let total = 0;
      for (let done = await round(); done > 0; done = await round()) total += done;
      return total;
    };
    // Setting up is no part of the measure: it is done before each side runs.
    const prepared = (round: () => Promise<number>) => ({
      before: () => enterEverybody(connection, ws, sequence, steps[0]?.id ?? ''),
      run: () => all(round),
    });
    await inTurn(
      `${name}, batches of ${ADVANCE_BATCH}; against the bare claim-and-write`,
      'visits/s',
      prepared(() => advanceRound(connection, NOW)),
      prepared(() => bareRound(connection, ws, 'none')),
    );
  } finally {
    await close();
  }
}

/** Visits per second through the whole loop: facts loaded, decided, traced; an email and a wait each. */
export const advance = (): Promise<void> =>
  measure('advance: an email and a wait', [emailStep('first'), waitStep('wait', 1), emailStep('second')], () =>
    Promise.resolve(),
  );

/** The same with a branch before the email that asks for events: everybody has three of them. */
export const advanceWithBranches = (): Promise<void> =>
  measure(
    'advance with the needs of a branch loaded',
    [
      {
        id: 'ask',
        on: true,
        note: '',
        kind: 'branch',
        name: '',
        arms: [
          {
            id: 'yes',
            condition: {
              kind: 'event',
              event: 'order.paid',
              done: true,
              since: { kind: 'ever' },
              where: [{ field: 'total', op: 'over', value: 25 }],
            },
            steps: [emailStep('first')],
          },
          { id: 'no', condition: null, steps: [emailStep('other')] },
        ],
      },
      waitStep('wait', 1),
      emailStep('second'),
    ],
    async ({ db }, ws) => {
      await db.execute(sql`
        insert into events (workspace_id, person_id, id, name, occurred_at, payload)
        select ${ws}, p.id, gen_random_uuid(), 'order.paid', ${NOW} - i * 86400000::bigint, jsonb_build_object('total', 10 * i)
        from people p, generate_series(1, 3) i where p.workspace_id = ${ws}`);
      await db.execute(sql`analyze events`);
    },
  );
