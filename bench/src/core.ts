import {
  advance,
  blankSequence,
  type Condition,
  enter,
  factsAbout,
  prepare,
  rehearse,
  type Sequence,
  type Step,
  type Visit,
} from '@ascenso/core';
import { inTurn } from './support/measure.ts';
import { emailStep, waitStep } from './support/steps.ts';
import { NOW } from './support/world.ts';

const VISITS = 100_000;
const DAY = 86_400_000;

const ordered: Condition = { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] };

/** Ten rounds of email, wait and a branch on an order: thirty steps, each of them decided on the way. */
function thirtySteps(): Sequence {
  const round = (i: number): Step[] => [
    emailStep(`e${i}`, { window: { days: [1, 2, 3, 4, 5], from: 480, to: 1080 } }),
    waitStep(`w${i}`, 2),
    {
      id: `b${i}`,
      on: true,
      note: '',
      kind: 'branch',
      name: '',
      arms: [
        { id: `y${i}`, condition: ordered, steps: [] },
        { id: `n${i}`, condition: null, steps: [] },
      ],
    },
  ];
  return { ...blankSequence('Thirty steps', null), steps: Array.from({ length: 10 }, (_, i) => round(i)).flat() };
}

const facts = factsAbout(
  { email: 'marta@readers.example', zone: 'Europe/Lisbon' },
  { events: [{ name: 'order.paid', at: NOW + 9 * DAY, payload: { total: 30 } }] },
);

/** A person through thirty steps: the rehearsal, against the calls of `advance` that it consists of. */
export async function rehearsal(): Promise<void> {
  const sequence = thirtySteps();
  const run = prepare(sequence);
  const alone = () => {
    let visit: Visit = enter('v', 's', 1, run, NOW, {});
    while (visit.status === 'active') visit = advance(visit, run, facts, visit.dueAt).visit;
  };
  const many = (what: () => void) => () => {
    for (let i = 0; i < 200; i++) what();
    return 200;
  };
  const line = await inTurn(
    'rehearsal of one person over 30 steps (against advance alone)',
    'rehearsals/s',
    many(() =>
      rehearse({
        sequence,
        facts,
        at: NOW,
        entry: {},
        usually: { does: 'clicks', link: null },
        emails: {},
        events: facts.events,
      }),
    ),
    many(alone),
  );
  console.log(
    JSON.stringify({
      name: 'rehearsal of one person over 30 steps',
      value: Number((1000 / line.value).toFixed(3)),
      unit: 'ms',
    }),
  );
}

/** 100,000 visits through an email, a branch and a wait on one core, against copying them: the least that a pure function does. */
export async function coreAdvance(): Promise<void> {
  const run = prepare(thirtySteps());
  const visits = Array.from({ length: VISITS }, (_, i) => enter(`v${i}`, 's', 1, run, NOW, {}));
  await inTurn(
    `advance of ${VISITS} visits in core alone (against copying the visit)`,
    'visits/s',
    () => {
      for (const v of visits) advance(v, run, facts, NOW);
      return visits.length;
    },
    () => {
      let kept: Visit | null = null;
      for (const v of visits) kept = { ...v, stepTimes: { ...v.stepTimes } };
      return kept ? visits.length : 0;
    },
    3,
  );
}
