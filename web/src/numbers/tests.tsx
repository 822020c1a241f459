import { scaleLinear } from 'd3';
import { useState } from 'react';
import { toast } from 'sonner';
import type { TestDecision, TestsAnswer } from '@ascenso/contracts';
import {
  DAY,
  emailSteps,
  findStep,
  judge,
  MEASURE_WORDS,
  momentWords,
  periodWords,
  seenArm,
  testMeasures,
  type Judged,
  type Sequence,
  type SplitStep,
  type Step,
  type TestMeasure,
  zoneOf,
  LEAST_AHEAD,
} from '@ascenso/core';
import { useMeQuery } from '../app/api.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Button, Dialog, number, Sheet } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { amountWords } from '../ui/money.ts';
import { SavedText } from '../ui/saved-text.tsx';
import { useTestsQuery } from './endpoints.ts';

const MEASURES: Record<TestMeasure, string> = {
  money: 'Money per person',
  goal: 'Reached the goal',
  clicked: 'Clicked in its email',
  opened: 'Opened its email',
};

/** "A · Your first kit" of an arm: its letter and what its first email is called. */
function armName(arm: { name?: string | undefined; steps: readonly Step[] } | undefined, i: number): string {
  if (arm?.name) return `${String.fromCharCode(65 + i)} · ${arm.name}`;
  const first = arm && emailSteps({ steps: [...arm.steps] })[0];
  return `${String.fromCharCode(65 + i)} · ${first ? first.name : arm ? 'no email' : 'an arm that is gone'}`;
}

const percent = (share: number) => `${(share * 100).toFixed(1)}%`;

/** What is to be said of it, in a sentence. */
function verdict(
  j: Judged,
  names: readonly string[],
  by: TestMeasure,
  words: (n: number) => string,
  perDay: number,
): string {
  const leader = names[j.leader] ?? '';
  const points = (n: number) => (by === 'money' ? words(n) : `${(n * 100).toFixed(1)} points`);
  if (j.settled)
    return `Settled: ${leader} is better, by ${points(j.ahead.low)} at least${names.length > 2 ? ' than the next' : ''}. Looking at it every day did no harm.`;
  const chance = `${leader} leads, and is the best with a chance of ${Math.round((j.arms[j.leader]?.best ?? 0) * 100)}%`;
  if (j.few) return 'Not settled yet: too few people to say anything.';
  if (j.needed === null) return `Not settled: ${chance}, but the gap is too small to tell with a million people.`;
  const days = perDay > 0 ? Math.ceil(j.needed / perDay) : null;
  return `Not settled yet: ${chance}. About ${number(j.needed)} more people to tell a gap like this one apart${days === null ? '' : `, ${periodWords(days, 'days')} at this pace`}.`;
}

/** Ranges of the arms above each other on one scale. */
function Ranges({ judged, names, words }: { judged: Judged; names: readonly string[]; words: (n: number) => string }) {
  const ends = judged.arms.flatMap((a) => [a.range.low, a.range.high]);
  const [low, high] = [Math.min(0, ...ends), Math.max(...ends)];
  const x = scaleLinear([low, high > low ? high : low + 1], [0, 100]);
  return (
    <ul className="flex flex-col gap-1.5" aria-hidden="true">
      {judged.arms.map((a, i) => (
        <li key={names[i]} className="flex items-center gap-3">
          <span className="w-48 truncate text-[13px]">{names[i]}</span>
          <span className="relative h-4 flex-1 rounded-[4px] bg-paper-2">
            <i
              className={`absolute inset-y-1 rounded-[3px] ${i === judged.leader ? 'bg-spruce-mid' : 'bg-line'}`}
              style={{ left: `${x(a.range.low)}%`, width: `${x(a.range.high) - x(a.range.low)}%` }}
            />
            <i
              className="absolute inset-y-0 w-1 -translate-x-1/2 rounded-[2px] bg-spruce-deep"
              style={{ left: `${x(a.mean)}%` }}
            />
          </span>
          <span className="w-20 text-right text-[13px] tabular-nums">{words(a.mean)}</span>
        </li>
      ))}
    </ul>
  );
}

function DecideDialog({
  step,
  names,
  first,
  said,
  onClose,
}: {
  step: SplitStep;
  names: readonly string[];
  first: number;
  said: string;
  onClose: () => void;
}) {
  const dispatch = useAct();
  const [chosen, setChosen] = useState(first);
  const [learned, setLearned] = useState(said);
  const decide = () => {
    const made = dispatch(
      edit([
        ...step.arms.map((arm, i) => ({ type: 'arm.weigh' as const, arm: arm.id, weight: i === chosen ? 100 : 0 })),
        { type: 'step.set' as const, step: step.id, field: 'note', value: learned.slice(0, 2000) },
      ]),
    );
    if (made) toast(`From the next version on everybody takes ${names[chosen]}. Publish it to make it so.`);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Decide this test">
      <div className="flex flex-col gap-3">
        <Choice
          label="Everybody who gets here later takes"
          value={chosen}
          of={names.map((label, value) => ({ value, label }))}
          choose={setChosen}
        />
        <div className="flex flex-col gap-1">
          <span className="text-[13px] text-ink-2">What was learned</span>
          <SavedText label="What was learned" value={learned} save={setLearned} area />
        </div>
        <p className="text-ink-2">
          It stays as a note at the split. Whoever is in another arm goes on there. It takes hold with the next version
          that you publish.
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not yet</Button>
          <Button tone="main" onClick={decide}>
            Decide
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

/** What its rule has decided, when and by what, in the zone of the workspace. */
function decisionWords(
  { at, arm, measure, settled, few }: TestDecision,
  name: string | undefined,
  zone: string,
): string {
  if (few)
    return `Its time came on ${momentWords(zoneOf(zone), at)}, and too few had taken part for one to be ahead (${LEAST_AHEAD} in each at least): ${arm === '' ? 'whoever came later takes either, by lot' : `whoever came later takes ${name ?? 'an arm that is gone'}, as it was written first`}.`;
  const how = settled ? 'which was settled by then' : 'which was ahead, and not settled';
  return `Decided by its rule on ${momentWords(zoneOf(zone), at)}, by ${MEASURE_WORDS[measure]}: whoever came later takes ${name ?? 'an arm that is gone'}, ${how}.`;
}

function TestCard({ test, currency, doc }: { test: TestsAnswer['tests'][number]; currency: string; doc: Sequence }) {
  const found = findStep(doc, test.step)?.step;
  const step = found?.kind === 'split' ? found : null;
  const [by, setBy] = useState<TestMeasure>(
    test.decided?.measure ??
      (step?.rule ? step.rule.measure : null) ??
      (test.arms.some((a) => a.ordered > 0) ? 'money' : 'clicked'),
  );
  const { data: me } = useMeQuery();
  const [deciding, setDeciding] = useState(false);
  const unpublished = useApp((s) => s.draft.unpublished || s.draft.unsaved > 0);
  // Arms in the order of the plan; those that are gone come behind.
  const order = step?.arms.map((a) => a.id) ?? [];
  const none = { people: 0, opened: 0, clicked: 0, goal: 0, ordered: 0, money: 0, squares: 0 };
  const arms = [
    ...order.map((arm) => test.arms.find((a) => a.arm === arm) ?? { arm, ...none }),
    ...test.arms.filter((a) => !order.includes(a.arm)),
  ];
  if (arms.length < 2) return null;
  const names = arms.map((a, i) =>
    armName(
      step?.arms.find((k) => k.id === a.arm),
      i,
    ),
  );
  const judged = judge(
    arms.map((a) => seenArm(a, by)),
    by === 'money' ? 'mean' : 'share',
  );
  const words = by === 'money' ? (n: number) => amountWords(Math.round(n), currency) : percent;
  const days = Math.max(1, (test.latest - test.since) / DAY);
  const said = verdict(judged, names, by, words, arms.reduce((n, a) => n + a.people, 0) / days);
  const decided = step?.arms.filter((a) => a.weight > 0).length === 1;
  return (
    <Sheet className="shrink-0 p-5">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="flex-1 text-[15px] font-bold">{step?.name || 'A split'}</h2>
        <div className="w-60">
          <Choice
            hideLabel
            label="What is compared"
            value={by}
            of={testMeasures
              .filter((m) => m !== 'goal' || doc.goal)
              .map((value) => ({ value, label: MEASURES[value] }))}
            choose={setBy}
          />
        </div>
        {step && !decided && <Button onClick={() => setDeciding(true)}>Decide</Button>}
      </div>
      <p className="mb-3">
        {test.decided && (
          <b className="font-semibold">
            {decisionWords(test.decided, names[order.indexOf(test.decided.arm)], me?.workspace.zone ?? 'UTC')}{' '}
          </b>
        )}
        {decided && (
          <b className="font-semibold">
            {unpublished ? 'Decided in the draft.' : 'Decided.'} {step.note}
          </b>
        )}
        {!decided && !test.decided && said}
      </p>
      <Ranges judged={judged} names={names} words={words} />
      <table className="mt-3 w-full">
        <thead className="text-[12px] text-ink-2">
          <tr>
            <th className="text-left font-semibold">Arm</th>
            <th className="text-right font-semibold">People</th>
            <th className="text-right font-semibold">{MEASURES[by]}</th>
            <th className="text-right font-semibold">95% range</th>
            <th className="text-right font-semibold">Chance to be the best</th>
            <th className="text-right font-semibold">Given away, should it not be</th>
          </tr>
        </thead>
        <tbody>
          {judged.arms.map((a, i) => (
            <tr key={names[i]} className="border-t border-line tabular-nums">
              <th scope="row" className="py-1.5 text-left font-semibold">
                {names[i]}
              </th>
              <td className="text-right">{number(arms[i]?.people ?? 0)}</td>
              <td className="text-right">{words(a.mean)}</td>
              <td className="text-right">
                {words(a.range.low)} to {words(a.range.high)}
              </td>
              <td className="text-right">{judged.few ? '–' : `${Math.round(a.best * 100)}%`}</td>
              <td className="text-right">{judged.few ? '–' : words(a.loss)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-[12px] text-ink-2">
        Opened and clicked are of the arm’s own emails; the goal and money are of all that came after it in the same
        passage. It is settled once the leader is ahead of every other in a range that holds at every look (a mixture
        range, one error in twenty tests at most); chances begin with every value as likely as any other.
      </p>
      {deciding && step && (
        <DecideDialog step={step} names={names} first={judged.leader} said={said} onClose={() => setDeciding(false)} />
      )}
    </Sheet>
  );
}

/** The splits of a sequence as tests: what each arm brought, and whether it is settled. */
export function Tests({ id, doc }: { id: string; doc: Sequence }) {
  const { data } = useTestsQuery(id, { refetchOnMountOrArgChange: true });
  return data?.tests.map((t) => <TestCard key={t.step} test={t} currency={data.currency} doc={doc} />);
}
