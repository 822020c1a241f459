import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { rows } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { actionStep, branchStep, emailStep, useWorld, waitStep } from './support/world.ts';

const MINUTE = 60_000;
const world = useWorld();
const subjects = (who: string) =>
  world
    .mail()
    .filter((m) => m.to === who)
    .map((m) => m.subject);

test('a goodbye that takes them off its own list right behind it still goes; what else stands there is done', async () => {
  await world.live({
    name: 'Goodbye',
    triggers: [{ kind: 'event', event: 'gone.quiet', where: [] }],
    steps: [
      emailStep('Goodbye'),
      actionStep({ type: 'leave-list', list: world.list }),
      actionStep({ type: 'add-tag', tag: 'asleep' }),
      waitStep(1),
      emailStep('Never'),
    ],
  });
  const who = 'asleep@readers.example';
  await world.join(who);
  await world.event({ type: 'gone.quiet', subject: who }).expect(202);
  await world.ahead((await world.now()) + 3 * 86_400_000);
  expect(subjects(who)).toEqual(['Goodbye']);
  expect((await world.person(who))?.tags).toEqual(['asleep']);
});

test('who leaves by themselves between the decision and the sending does not get it, whatever the sequence does behind', async () => {
  const who = 'leaves@readers.example';
  await world.join(who);
  await world.event({ type: 'gone.quiet', subject: who }).expect(202);
  await advanceRound(world.connection, await world.now());
  const id = (await world.person(who))?.id;
  await world.connection.db.execute(
    sql`update memberships set state = 'left', by_visit = null where person_id = ${id}`,
  );
  await world.ahead((await world.now()) + 3 * 86_400_000);
  expect(subjects(who)).toEqual([]);
});

test('what one passage of a person changes, another in the same batch sees', async () => {
  const ask = branchStep(
    [{ kind: 'tag', tag: 'maker', has: true }, [emailStep('For makers')]],
    [null, [emailStep('For others')]],
  );
  await world.live({
    name: 'Tags',
    triggers: [{ kind: 'event', event: 'kit.opened', where: [] }],
    steps: [actionStep({ type: 'add-tag', tag: 'maker' }), waitStep(1), emailStep('Later')],
  });
  await world.live({ name: 'Asks', triggers: [{ kind: 'event', event: 'book.begun', where: [] }], steps: [ask] });
  const who = 'maker@readers.example';
  await world.join(who);
  const now = await world.now();
  await world.event({ type: 'kit.opened', subject: who, time: now - MINUTE }).expect(202);
  await world.event({ type: 'book.begun', subject: who, time: now }).expect(202);
  await advanceRound(world.connection, now);
  const queued = await rows<{ subject: string }>(
    world.connection.db,
    sql`select p.program->'subject'->>0 as subject from sends s join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash
        join people r on r.workspace_id = s.workspace_id and r.id = s.person_id where r.email = ${who}`,
  );
  expect(queued).toEqual([{ subject: 'For makers' }]);
});
