import { sql } from 'drizzle-orm';
import { HOUR, type Sequence, type Step } from '@ascenso/core';
import { describe, expect, test } from 'vitest';
import { pendingChanges, publish } from '../src/sequences/publishing.ts';
import { firstRow } from '../src/db/rows.ts';
import { emailStep, waitStep } from './support/world.ts';
import { useEngine } from './support/engine.ts';

const { world, address, mailTo, codes, sequenceOf } = useEngine();
const DAY = 24 * HOUR;

describe('publishing while people are inside', () => {
  const first = emailStep('Hello');
  const wait = waitStep(4);
  const second = emailStep('Old words');
  const last = emailStep('Goodbye');

  /** Somebody a day into the sequence when a new version of it is published; answers what they then get. */
  async function published(inside: 'finish' | 'carry-on' | 'leave', change: (steps: Step[]) => Step[]) {
    const s = await sequenceOf([first, wait, second, waitStep(1), last]);
    const early = address();
    const begun = await world.now();
    await s.start(early);
    await world.ahead(begun + DAY);
    const { db } = world.connection;
    const row = await firstRow<{ draft: Sequence }>(db, sql`select draft from sequences where id = ${s.id}`);
    const draft = { ...(row as { draft: Sequence }).draft, steps: change((row as { draft: Sequence }).draft.steps) };
    await db.execute(
      sql`update sequences set draft = ${JSON.stringify(draft)}::jsonb, revision = 1 where id = ${s.id}`,
    );
    const told = await pendingChanges(db, world.ws, s.id, 'Europe/Lisbon');
    await db.transaction((tx) => publish(tx, world.ws, s.id, 1, null, begun + DAY, inside));
    const later = address();
    await s.start(later);
    await world.ahead(begun + 12 * DAY);
    const got = (who: string) => mailTo(who).map((m) => [m.subject, (m.at - begun) / DAY]);
    return { told, early: got(early), later: got(later), codes: await codes(early) };
  }
  const reworded = (steps: Step[]): Step[] =>
    steps.map((s) =>
      s.id === second.id && s.kind === 'email'
        ? { ...s, email: { ...s.email, subject: 'New words' } }
        : s.id === wait.id
          ? { ...wait, amount: 2 }
          : s,
    );

  test('they finish on their version: old words at the old times; who enters later gets the new ones', async () => {
    const { early, later } = await published('finish', reworded);
    expect(early).toEqual([
      ['Hello', 0],
      ['Old words', 4],
      ['Goodbye', 5],
    ]);
    expect(later).toEqual([
      ['Hello', 1],
      ['New words', 3],
      ['Goodbye', 4],
    ]);
  });

  test('they carry on: the shorter wait counts from when they began it, and nothing is sent twice', async () => {
    const { early, codes: told } = await published('carry-on', (steps) => [...reworded(steps).slice(1), first]);
    expect(early).toEqual([
      ['Hello', 0],
      ['New words', 2],
      ['Goodbye', 3],
    ]);
    expect(told).toEqual(expect.arrayContaining(['carried-over', 'email-repeat']));
  });

  test('they carry on from the next step that is left when theirs is gone', async () => {
    const { early } = await published('carry-on', (steps) =>
      steps.filter((s) => s.id !== wait.id && s.id !== second.id),
    );
    expect(early).toEqual([
      ['Hello', 0],
      ['Goodbye', 2],
    ]);
  });

  test('they leave: nothing more comes, and their page says why', async () => {
    const { early, codes: told } = await published('leave', reworded);
    expect(early).toEqual([['Hello', 0]]);
    expect(told.at(-1)).toBe('left-by-publishing');
  });

  test('before publishing it is told what changes, and how many people stand where', async () => {
    const { told } = await published('finish', (steps) => reworded(steps).filter((s) => s.id !== last.id));
    expect(told.inside).toBe(1);
    expect(told.touched).toEqual({ [wait.id]: 1 });
    expect(told.changes.map((c) => [c.kind, c.title, ...c.words])).toEqual([
      ['changed', '2 days later', 'Wait: 4 days became 2 days.'],
      ['changed', 'Old words', 'Subject: “Old words” became “New words”.'],
      ['removed', 'Goodbye'],
    ]);
  });
});
