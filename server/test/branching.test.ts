import { sql } from 'drizzle-orm';
import { HOUR, plainEntry, type Step } from '@ascenso/core';
import request from 'supertest';
import { describe, expect, test } from 'vitest';
import { personStory } from '../src/db/people.ts';
import { firstRow } from '../src/db/rows.ts';
import { actionStep, branchStep, emailStep, testId, waitStep } from './support/world.ts';
import { useEngine } from './support/engine.ts';

const { world, address, mailTo, codes, sequenceOf } = useEngine();
const DAY = 24 * HOUR;

describe('branches, tags and filters', () => {
  test('a branch on an email of the sequence takes who opened it one way, who did not the other', async () => {
    const first = emailStep('Guide');
    const arm = (name: string) => [emailStep(name)];
    const s = await sequenceOf([
      first,
      waitStep(2),
      branchStep(
        [{ kind: 'email', step: first.id, what: 'opened', did: true }, arm('You read it')],
        [null, arm('You may have missed it')],
      ),
      actionStep({ type: 'add-tag', tag: 'guide-done' }),
    ] as Step[]);
    const [reader, silent] = [address(), address()];
    await s.start(reader);
    await s.start(silent);
    const now = await world.now();
    await world.ahead(now + HOUR);
    await world.connection.db.execute(
      sql`update sends s set opened_at = ${now + HOUR} from people p where p.id = s.person_id and p.email = ${reader}`,
    );
    await world.ahead(now + 3 * DAY);
    expect(mailTo(reader).map((m) => m.subject)).toEqual(['Guide', 'You read it']);
    expect(mailTo(silent).map((m) => m.subject)).toEqual(['Guide', 'You may have missed it']);
    expect((await world.person(reader))?.tags).toEqual(['guide-done']);
  });

  test('a wait for a click ends with the click on that link, through the tracking door, and with no other', async () => {
    const first = emailStep('Lesson one', { address: 'https://foldwell.example/lessons/1' });
    const clicked = {
      kind: 'email' as const,
      step: first.id,
      what: 'clicked' as const,
      link: 'https://foldwell.example/lessons/1',
      did: true,
    };
    const s = await sequenceOf([
      first,
      {
        id: testId(),
        on: true,
        note: '',
        kind: 'until',
        name: '',
        condition: clicked,
        amount: 2,
        unit: 'days',
        arms: [
          { id: testId(), steps: [emailStep('Lesson two')] },
          { id: testId(), steps: [emailStep('Did you get it?')] },
        ],
      },
    ]);
    const [reader, silent] = [address(), address()];
    await s.start(reader);
    await s.start(silent);
    const now = await world.now();
    await world.ahead(now + HOUR);
    const html = world.mailbox.store
      .source(world.mailbox.store.summaries.filter((m) => m.to === reader).at(-1) as never)
      .toString();
    const link = /\/c\/[\w=-]+?\/0/.exec(html.replaceAll('=\r\n', ''))?.[0] as string;
    await request(world.app).get(link).expect(302);
    await world.ahead(now + 3 * DAY);
    expect(mailTo(reader).map((m) => [m.subject, m.at])).toEqual([
      ['Lesson one', now],
      ['Lesson two', now + HOUR],
    ]);
    expect(mailTo(silent).map((m) => [m.subject, m.at])).toEqual([
      ['Lesson one', now],
      ['Did you get it?', now + 2 * DAY],
    ]);
    expect(await codes(reader)).toContain('until-happened');
  });

  test('actions put on lists, take off, and set values; two sequences that start each other come to an end', async () => {
    const [ping, pong] = [await world.addList(world.ws, 'Ping'), await world.addList(world.ws, 'Pong')];
    const action = (a: object): Step => ({ id: testId(), on: true, note: '', kind: 'action', action: a }) as Step;
    for (const [here, there] of [
      [ping, pong],
      [pong, ping],
    ] as const)
      await world.live({
        name: `On ${here}`,
        list: null,
        entry: { ...plainEntry, again: 'after-leaving' },
        triggers: [{ kind: 'list', list: here, what: 'joined' }],
        steps: [
          action({ type: 'leave-list', list: here }),
          action({ type: 'join-list', list: there }),
          emailStep('On the list'),
        ],
      });
    const s = await sequenceOf([
      action({ type: 'set-attribute', key: 'orders', value: 3 }),
      action({ type: 'join-list', list: ping }),
      emailStep('Begun'),
    ]);
    const who = address();
    await s.start(who);
    await world.ahead(await world.now());
    const told = await codes(who);
    // The first visit, and eight more in the chain that it began.
    expect(told.filter((c) => c === 'entered')).toHaveLength(9);
    expect(told.filter((c) => c === 'list-joined')).toHaveLength(9);
    const person = await firstRow<{ attributes: object }>(
      world.connection.db,
      sql`select attributes from people where email = ${who}`,
    );
    expect(person?.attributes).toEqual({ orders: 3 });
  });

  test('who does not pass the entry filter does not enter, and their page says why', async () => {
    const type = `kit.seen.${testId()}`;
    await world.live({
      name: type,
      list: null,
      triggers: [{ kind: 'event', event: type, where: [] }],
      steps: [emailStep('Kit')],
      filter: { kind: 'attribute', test: { field: 'orders', op: 'over', value: 1 } },
    });
    const [new_, seasoned] = [address(), address()];
    await world.join(new_, { attributes: { orders: 1 } });
    await world.join(seasoned, { attributes: { orders: 2 } });
    for (const subject of [new_, seasoned]) await world.event({ type, subject }).expect(202);
    await world.ahead(await world.now());
    expect([mailTo(new_).length, mailTo(seasoned).length]).toEqual([0, 1]);
    const story = await personStory(
      world.connection.db,
      world.ws,
      (await world.person(new_))?.id as string,
      'Europe/Lisbon',
    );
    expect(story.story.map((e) => e.text)).toContain(
      'Did not enter: only somebody who has a value for orders that is over 1 may.',
    );
  });

  test('an email for some only is passed over by the others, who go on', async () => {
    const some = emailStep('For teachers');
    some.forWhom = { kind: 'tag', tag: 'teacher', has: true };
    const s = await sequenceOf([some, emailStep('For all')]);
    const who = address();
    await s.start(who);
    await world.ahead(await world.now());
    expect(mailTo(who).map((m) => m.subject)).toEqual(['For all']);
    expect(await codes(who)).toContain('email-skipped');
  });

  test.each([
    [{ total: 30 }, 1],
    [{ total: 25 }, 0],
    // Many shops send their numbers as text.
    [{ total: '30' }, 1],
    [{}, 0],
  ])('an event with a filter on its payload starts for %j: %i email', async (data, count) => {
    const type = `checkout.left.${testId()}`;
    await world.live({
      name: type,
      list: null,
      triggers: [{ kind: 'event', event: type, where: [{ field: 'total', op: 'over', value: 25 }] }],
      steps: [emailStep('Left')],
    });
    const who = address();
    await world.event({ type, subject: who, data }).expect(202);
    await world.ahead(await world.now());
    expect(mailTo(who)).toHaveLength(count);
  });
});
