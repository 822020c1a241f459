import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { connect } from '../src/db/connect.ts';
import { migrateSchema } from '../src/db/migrating.ts';
import { firstRow, rows } from '../src/db/rows.ts';
import { startLoops } from '../src/engine/loops.ts';
import { until } from './support/killing.ts';
import { FRIDAY_NOON, migrations, useWorld } from './support/world.ts';

const DAY = 86_400_000;
const world = useWorld();
const inRest = async () =>
  (await firstRow<{ n: number }>(world.connection.db, sql`select count(*)::int as n from events_rest`))?.n;
const all = async () =>
  (await firstRow<{ n: number }>(world.connection.db, sql`select count(*)::int as n from events`))?.n;
const months = async () =>
  (
    await rows<{ name: string }>(
      world.connection.db,
      sql`select relname as name from pg_class where relname ~ '^events_[0-9]{4}_[0-9]{2}$' order by 1`,
    )
  ).map((m) => m.name);

test('the clock two years on while the server runs, then a restart: every event has its month, none is lost', async () => {
  const tell = (time: number) =>
    world.event({ type: 'item.viewed', subject: 'marta@readers.example', time }).expect(202);
  const twoYears = FRIDAY_NOON + 730 * DAY;
  await tell(FRIDAY_NOON);
  // The clock jumps before anybody has made the months: what comes then lies in the rest.
  await world.stand(twoYears);
  await tell(twoYears);
  await tell(twoYears - 40 * DAY);
  expect(await inRest()).toBe(2);
  const stop = startLoops(world.connection, world.sending, () => undefined);
  await until('the loops see to it', async () => (await months()).includes('events_2028_09'));
  await stop();
  await tell(twoYears);
  expect(await inRest()).toBe(0);
  expect(await all()).toBe(4);
  // A restart begins from the day on which the installation was made.
  const again = connect(world.databaseUrl);
  await migrateSchema(again, migrations, FRIDAY_NOON);
  await migrateSchema(again, migrations, twoYears);
  await again.close();
  expect(await all()).toBe(4);
  expect(await months()).toContain('events_2028_01');
});

test('events of a month long ago are moved out of the rest; those of another century stay there', async () => {
  const old = Date.UTC(2021, 4, 5);
  await world.event({ type: 'item.viewed', subject: 'marta@readers.example', time: old }).expect(202);
  await world.event({ type: 'item.viewed', subject: 'marta@readers.example', time: Date.UTC(1921, 4, 5) }).expect(202);
  expect(await inRest()).toBe(2);
  const again = connect(world.databaseUrl);
  await migrateSchema(again, migrations, await world.now());
  await again.close();
  expect(await inRest()).toBe(1);
  expect(await months()).toContain('events_2021_05');
});
