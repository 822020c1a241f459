import { afterEach, expect, test } from 'vitest';
import { extraCopies, killRun } from './support/killing.ts';
import { World } from './support/world.ts';

// Architecture, "Promises": nothing lost, nothing doubled. `npm run kill` does this with 100 kills.
const KILLS = Number(process.env.KILLS ?? 10);
const PEOPLE = 150 * KILLS;
/** Messages that a process may have handed over and not recorded yet when it is killed. */
const IN_FLIGHT = 50;

let world: World;
afterEach(() => world.close());

test(
  `engines killed ${KILLS} times in mid-run: every message comes, none twice beyond what was on its way`,
  { timeout: 60_000 + KILLS * 20_000 },
  async () => {
    world = new World();
    await world.open();
    const result = await killRun(world, PEOPLE, KILLS, 1_500);
    expect([...result.came.values()].map((m) => m.what).sort()).toEqual(result.expected.sort());
    for (const { sources } of result.came.values()) expect(new Set(sources).size).toBe(1);
    const extra = extraCopies(result);
    console.log(`${KILLS} kills, ${result.expected.length} messages, ${extra} handed over twice`);
    expect(extra).toBeLessThanOrEqual(KILLS * IN_FLIGHT);
  },
);

test(
  'with the lease taken out the same run hands over more than that: the check above can fail',
  { timeout: 120_000 },
  async () => {
    world = new World();
    await world.open();
    // Enough work that every lane is awake while it lasts.
    const result = await killRun(world, 1_500, 1, 0);
    expect(extraCopies(result)).toBeGreaterThan(IN_FLIGHT);
  },
);
