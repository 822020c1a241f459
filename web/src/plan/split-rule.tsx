import { LEAST_AHEAD, MEASURE_WORDS, testMeasures, type SplitRule, type SplitStep, type WaitStep } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Choice } from '../ui/choice.tsx';
import { NumberInput } from '../ui/number-field.tsx';
import { PeriodParts } from './period-parts.tsx';

/** How a test is decided: by hand; once it is settled; at a time; at a time, for those who wait. */
type How = 'hand' | 'settled' | 'time' | 'first';

const howOf = (rule: SplitRule | null): How =>
  !rule ? 'hand' : !rule.after ? 'settled' : rule.first === 100 ? 'time' : 'first';

const FOUR_HOURS: SplitRule['after'] = { amount: 4, unit: 'hours' };

/** What a rule becomes when it is decided in another way. */
function ruled(how: How, rule: SplitRule | null): SplitRule | null {
  const measure = rule?.measure ?? 'clicked';
  if (how === 'hand') return null;
  if (how === 'settled') return { measure, first: 100, after: null };
  return { measure, first: how === 'time' ? 100 : 10, after: rule?.after ?? FOUR_HOURS };
}

/** How a split is decided, as a sentence. */
export function SplitRuleSentence({ step }: { step: SplitStep }) {
  const dispatch = useAct();
  const doc = useApp((s) => s.draft.doc);
  const rule = step.rule ?? null;
  const ownHour = doc?.triggers.some((t) => t.kind === 'moment' && t.when === 'day' && t.zone === null) ?? false;
  const save = (value: SplitRule | null) => dispatch(edit([{ type: 'step.set', step: step.id, field: 'rule', value }]));
  return (
    <p className="leading-9">
      It is decided{' '}
      <Choice
        label="How it is decided"
        hideLabel
        inline
        value={howOf(rule)}
        choose={(how) => save(ruled(how, rule))}
        of={[
          { value: 'hand', label: 'by hand' },
          { value: 'settled', label: 'once it is settled' },
          { value: 'time', label: 'at a time' },
          { value: 'first', label: 'by a part of the people first' },
        ]}
      />
      {rule && (
        <>
          {' '}
          by{' '}
          <Choice
            label="What it is decided by"
            hideLabel
            inline
            value={rule.measure}
            choose={(measure) => save({ ...rule, measure })}
            of={testMeasures
              .filter((m) => m !== 'goal' || doc?.goal || rule.measure === 'goal')
              .map((m) => ({ value: m, label: MEASURE_WORDS[m] }))}
          />
        </>
      )}
      {rule?.after && (
        <>
          {' '}
          after{' '}
          <PeriodParts
            amount={rule.after.amount}
            unit={rule.after.unit}
            set={(field, value) =>
              save({
                ...rule,
                after: { ...(rule.after as { amount: number; unit: WaitStep['unit'] }), [field]: value },
              })
            }
          />
        </>
      )}
      {rule && rule.first < 100 && (
        <>
          .{' '}
          <NumberInput
            label="Share that takes part, percent"
            least={1}
            most={99}
            value={rule.first}
            save={(first) => save({ ...rule, first })}
            className="inline-block !w-16"
          />{' '}
          % take part; the others wait, and get the one that is ahead
        </>
      )}
      {rule?.after && (
        <>
          . Where fewer than {LEAST_AHEAD} took part in either,{' '}
          <Choice
            label="What they get where too few took part"
            hideLabel
            inline
            value={rule.few ?? 'first'}
            choose={(few) => save({ ...rule, few })}
            of={[
              { value: 'first', label: 'everybody gets the first' },
              { value: 'lot', label: 'each gets either, by lot' },
            ]}
          />
        </>
      )}
      .
      <span className="block text-[12px] leading-normal text-ink-2">
        {!rule
          ? 'Under Numbers it says how they compare, and lets you decide.'
          : rule.after && ownHour
            ? 'The part gets it at that hour of their own clock, in every zone. The time runs from when the hour has come everywhere; the others get it at the same hour of a later day, never at another.'
            : rule.after
              ? 'The time runs from the first who gets here. Whichever is ahead by then is taken, settled or not: whether it was stands under Numbers. Whoever gets here later takes it too.'
              : 'Looked at every six hours. Whoever gets here after it is settled takes the better one, without another version.'}
      </span>
    </p>
  );
}
