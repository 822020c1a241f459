import fc from 'fast-check';
import { expect, test } from 'vitest';
import { landings, rehearse, rhythmOf } from '../src/rehearsal/index.ts';
import { armsOf, blankStep, walk, type Step } from '../src/sequence/index.ts';
import { DAY, emailStep, facts, HOUR, id, NOON, sequence, waitStep } from './support.ts';

const email = fc
  .record({
    window: fc.option(
      fc.record({
        days: fc.subarray([0, 1, 2, 3, 4, 5, 6], { minLength: 1 }),
        from: fc.constantFrom(0, 480),
        to: fc.constantFrom(600, 1440),
      }),
    ),
  })
  .map(({ window }): Step => emailStep('Letter', { window }));
const wait = fc
  .record({
    amount: fc.integer({ min: 0, max: 9 }),
    unit: fc.constantFrom('hours' as const, 'days' as const, 'weeks' as const),
  })
  .map(({ amount, unit }): Step => waitStep(amount, unit));
const steps: fc.Arbitrary<Step[]> = fc.letrec<{ list: Step[] }>((tie) => ({
  list: fc.array(
    fc.oneof(
      { maxDepth: 2 },
      email,
      wait,
      fc.tuple(fc.constantFrom('branch' as const, 'split' as const), tie('list'), tie('list')).map(([kind, a, b]) => {
        const step = blankStep(kind, id);
        armsOf(step).forEach((arm, i) => arm.steps.push(...(i === 0 ? a : b)));
        return step;
      }),
    ),
    { maxLength: 5 },
  ),
})).list;
const zones = ['Europe/Lisbon', 'America/New_York', 'Asia/Kathmandu', 'Australia/Lord_Howe'];

test('what a rehearsal says of a person is one of the ways of the calendar, to the minute, for any plan', () => {
  fc.assert(
    fc.property(steps, fc.constantFrom(...zones), fc.nat(300 * 24), (list, zone, hours) => {
      const doc = sequence(list);
      const at = NOON + hours * HOUR;
      const who = facts({ zone });
      const { ways, cut } = landings({ sequence: doc, at, entry: {}, facts: who });
      if (cut) return;
      const said = rehearse({
        sequence: doc,
        facts: who,
        at,
        entry: {},
        usually: { does: 'ignores' },
        emails: {},
        events: [],
      });
      const sent = JSON.stringify(said.moments.flatMap((m) => (m.kind === 'email' ? [[m.step, m.at]] : [])));
      expect(ways.map((w) => JSON.stringify(w.landings.map((l) => [l.step, l.at])))).toContain(sent);
      // Every way is another one, and together they are everybody.
      expect(new Set(ways.map((w) => JSON.stringify(w.arms))).size).toBe(ways.length);
      expect(ways.reduce((n, w) => n + w.share, 0)).toBeCloseTo(1, 9);
    }),
    { numRuns: 200 },
  );
});

test('every arm of every fork that can be reached is on some way', () => {
  fc.assert(
    fc.property(steps, (list) => {
      const doc = sequence(list);
      const { ways, cut } = landings({ sequence: doc, at: NOON, entry: {}, facts: facts() });
      if (cut) return;
      const arms = walk(doc).flatMap(({ step }) => armsOf(step).map((a) => a.id));
      const taken = new Set(ways.flatMap((w) => w.arms.map((a) => a.arm)));
      expect([...taken].sort()).toEqual([...arms].sort());
    }),
    { numRuns: 200 },
  );
});

// "A step that may go out only on Fridays at 8:00, reached on a Friday at noon, goes out the Friday after" (job.md, common
// practice, no published source).
test('reached on a Friday at noon, a step for Fridays from 8:00 lands the Friday after, and says since when it is held', () => {
  const friday = emailStep('Friday', { window: { days: [5], from: 480, to: 540 } });
  const { ways } = landings({ sequence: sequence([friday]), at: NOON, entry: {}, facts: facts() });
  expect(ways[0]?.landings).toEqual([{ step: friday.id, at: NOON + 7 * DAY - 4 * HOUR, heldFrom: NOON }]);
});

// "One known series: 1 hour after joining, then 2 days and 1 hour after joining, then every 2 days, eight in all" (the same).
test('the known series: an hour after joining, then every two days, eight in all', () => {
  const list: Step[] = [waitStep(1, 'hours'), emailStep('1')];
  for (let i = 2; i <= 8; i++) list.push(waitStep(2, 'days'), emailStep(String(i)));
  const { ways } = landings({ sequence: sequence(list), at: NOON, entry: {}, facts: facts({ zone: 'UTC' }) });
  expect(ways[0]?.landings.map((l) => (l.at - NOON) / HOUR)).toEqual([1, 49, 97, 145, 193, 241, 289, 337]);
});

test('a window in a fixed zone is the same moment for everybody', () => {
  const window = { days: [1, 2, 3, 4, 5], from: 540, to: 600, zone: 'Europe/Lisbon' };
  const at = zones.map(
    (zone) =>
      landings({
        sequence: sequence([emailStep('Nine in Lisbon', { window })]),
        at: NOON,
        entry: {},
        facts: facts({ zone }),
      }).ways[0]?.landings[0]?.at,
  );
  expect(new Set(at)).toEqual(new Set([Date.UTC(2026, 2, 9, 9)]));
});

test('the rhythm of evenings from Monday to Thursday begins with the first evening, not on one heap at the entry', () => {
  const evening = (): Step =>
    ({ ...blankStep('wait', id), at: { kind: 'weekday', days: [1, 2, 3, 4], minute: 1140 } }) as Step;
  const emails = [1, 2, 3, 4, 5].map((n) => emailStep(String(n)));
  const steps_ = emails.flatMap((e) => [evening(), e]);
  // From a Monday at nine: that evening is ten hours on, and after Thursday comes the next Monday.
  expect([...rhythmOf(sequence(steps_)).values()].map((ms) => ms / HOUR)).toEqual([10, 34, 58, 82, 178]);
  expect([...rhythmOf(sequence([waitStep(2), emails[0] as Step])).values()]).toEqual([2 * DAY]);
});
