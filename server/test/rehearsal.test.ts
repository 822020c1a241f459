import { type Behaviour, blankSequence, factsAbout, HOUR, rehearse, type Sequence, type Step } from '@ascenso/core';
import request from 'supertest';
import { expect, test } from 'vitest';
import type { Crowd } from '../src/engine/mover.ts';
import { branchStep, emailStep, FRIDAY_NOON, testId, useWorld, waitStep } from './support/world.ts';

// Architecture, "The engine is one pure function": where a rehearsal and the server can disagree, the design is broken.
const world = useWorld();
const MINUTE = 60_000;
const DAY = 24 * HOUR;

/** Readers who do with every email just what a rehearsal lets them do, through the public doors. */
function readers(behaviour: Behaviour): Crowd {
  let seen = world.mailbox.store.summaries.length;
  const agenda: { at: number; url: string }[] = [];
  return {
    act: async (now) => {
      for (; seen < world.mailbox.store.summaries.length; seen++) {
        const s = world.mailbox.store.summaries[seen] as (typeof world.mailbox.store.summaries)[number];
        const source = world.mailbox.store.source(s).toString().replaceAll('=\r\n', '').replaceAll('=3D', '=');
        const door = (kind: string) => new RegExp(`/${kind}/[\\w-]+(?:\\.gif|/0)`).exec(source)?.[0];
        const [pixel, link] = [door('o'), door('c')];
        if (behaviour.does !== 'ignores' && pixel) agenda.push({ at: s.at + 15 * MINUTE, url: pixel });
        if (behaviour.does === 'clicks' && link) agenda.push({ at: s.at + 17 * MINUTE, url: link });
      }
      agenda.sort((a, b) => a.at - b.at);
      let acted = 0;
      for (; agenda[0] && agenda[0].at <= now; acted++)
        await request(world.app).get((agenda.shift() as { url: string }).url);
      return { acted, nextAt: agenda[0]?.at ?? null };
    },
  };
}

const first = emailStep('Guide');
const weekdays = { days: [1, 2, 3, 4, 5], from: 480, to: 1080 };
const steps: Step[] = [
  first,
  waitStep(1),
  branchStep(
    [{ kind: 'email', step: first.id, what: 'clicked', did: true }, [emailStep('You clicked')]],
    [{ kind: 'email', step: first.id, what: 'opened', did: true }, [{ ...emailStep('You read'), window: weekdays }]],
    [null, [{ ...emailStep('You missed it'), window: weekdays }, waitStep(30, 'hours')]],
  ),
  {
    id: testId(),
    on: true,
    note: '',
    kind: 'until',
    name: '',
    amount: 3,
    unit: 'days',
    condition: { kind: 'email', step: first.id, what: 'opened', did: true },
    arms: [
      { id: testId(), steps: [waitStep(2, 'hours')] },
      { id: testId(), steps: [{ id: testId(), on: true, note: '', kind: 'leave' }] },
    ],
  },
  {
    id: testId(),
    on: true,
    note: '',
    kind: 'split',
    name: '',
    arms: [
      { id: testId(), weight: 1, steps: [emailStep('Short')] },
      { id: testId(), weight: 1, steps: [emailStep('Long')] },
    ],
  },
  waitStep(3, 'weeks'),
  { ...emailStep('Goodbye'), window: weekdays },
];

test.each(['Europe/Lisbon', 'America/New_York', 'Asia/Kathmandu', 'Australia/Lord_Howe'])(
  'a reader in %s gets by the server, whatever they do, just what the rehearsal said, at the same moments',
  async (zone) => {
    for (const behaviour of [{ does: 'ignores' }, { does: 'opens' }, { does: 'clicks', link: null }] as Behaviour[]) {
      const begun = await world.now();
      const email = `${behaviour.does}.${zone.replace(/\W/g, '').toLowerCase()}@readers.example`;
      const type = `begun.${behaviour.does}.${zone.replace(/\W/g, '').toLowerCase()}`;
      const doc: Sequence = {
        ...blankSequence(type, null),
        triggers: [{ kind: 'event', event: type, where: [] }],
        steps,
      };
      await world.live(doc);
      await world.join(email, { zone });
      const person = await world.person(email);
      const facts = factsAbout({ id: person?.id ?? '', email, zone });
      const rehearsed = rehearse({
        sequence: doc,
        facts,
        at: begun,
        entry: {},
        usually: behaviour,
        emails: {},
        events: [],
      });
      await world.event({ type, subject: email, time: begun }).expect(202);
      await world.ahead(begun + 60 * DAY, readers(behaviour));
      const names = new Map(
        steps.flatMap(function all(s: Step): [string, string][] {
          return s.kind === 'email'
            ? [[s.id, s.email.subject]]
            : 'arms' in s
              ? s.arms.flatMap((a) => a.steps.flatMap(all))
              : [];
        }),
      );
      const said = rehearsed.moments.flatMap((m) => (m.kind === 'email' ? [[names.get(m.step), m.at]] : []));
      const came = world
        .mail()
        .filter((m) => m.to === email)
        .map((m) => [m.subject, m.at]);
      expect(came).toEqual(said);
      expect(said.length).toBeGreaterThanOrEqual(2);
      const decided = rehearsed.moments.flatMap((m) => (m.kind === 'decided' ? [m.entry.code] : []));
      expect((await world.trace(email)).map((t) => t.code).slice(1)).toEqual(decided);
    }
  },
);

test('the tests begin on a Friday at noon, with a weekend behind it', () => {
  expect(new Date(FRIDAY_NOON).getUTCDay()).toBe(5);
});
