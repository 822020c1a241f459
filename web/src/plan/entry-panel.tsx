import type { CapRules, EntryRules } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useSetDailyCapMutation, useSetGraceMutation } from './endpoints.ts';
import { Choice } from '../ui/choice.tsx';
import { NumberInput } from '../ui/number-field.tsx';

/** Who may enter again, side by side, and who is held out, as one sentence. */
export function EntrySentence({
  entry,
  events,
  around,
  save,
}: {
  entry: EntryRules;
  events: readonly string[];
  around: Surroundings;
  save: (e: EntryRules) => void;
}) {
  const fields = [
    ...new Set(
      around.kinds
        .filter((k) => events.includes(k.name))
        .flatMap((k) => k.fields.filter((f) => f.type === 'text' || f.type === 'number').map((f) => f.name)),
    ),
  ];
  return (
    <p className="leading-9">
      The same person may enter{' '}
      <Choice
        label="The same person may enter"
        hideLabel
        value={entry.again}
        choose={(v) => save({ ...entry, again: v })}
        inline
        of={[
          { value: 'once', label: 'once ever' },
          { value: 'after-leaving', label: 'again after leaving' },
          { value: 'after-days', label: 'again after some days' },
        ]}
      />
      {entry.again === 'after-days' && (
        <>
          :{' '}
          <NumberInput
            label="Days until they may enter again"
            least={1}
            most={3650}
            value={entry.days}
            save={(days) => save({ ...entry, days })}
            className="inline-block !w-20"
          />{' '}
          days since they entered last
        </>
      )}
      {fields.length > 0 && (
        <>
          , with{' '}
          <Choice
            label="Stories kept apart"
            hideLabel
            value={entry.key}
            choose={(v) => save({ ...entry, key: v })}
            inline
            of={[
              { value: '', label: 'one story at a time' },
              ...fields.map((f) => ({ value: f, label: `one for each ${f.replaceAll('_', ' ')}` })),
            ]}
          />
        </>
      )}
      .{' '}
      <NumberInput
        label="Share held out, percent"
        least={0}
        most={50}
        value={entry.holdout}
        save={(holdout) => save({ ...entry, holdout })}
        className="inline-block !w-16"
      />
      % are held out, to measure what it adds.
    </p>
  );
}

/** How it stands beside other sequences: the daily cap of the workspace, and who goes first. */
export function CapSentence({
  cap,
  around,
  save,
}: {
  cap: CapRules;
  around: Surroundings;
  save: (c: CapRules) => void;
}) {
  const [set] = useSetDailyCapMutation();
  const setCap = (text: string) => void set(text === '' ? null : Number(text));
  return (
    <p className="leading-9">
      Nobody gets more than{' '}
      <Choice
        label="Emails a day, for the whole workspace"
        hideLabel
        value={String(around.dailyCap ?? '')}
        choose={setCap}
        inline
        of={[
          { value: '', label: 'any number of' },
          ...[1, 2, 3, 4, 5].map((n) => ({ value: String(n), label: String(n) })),
        ]}
      />{' '}
      emails a day from all sequences together; for this one that{' '}
      <Choice
        label="Whether the daily cap counts"
        hideLabel
        value={String(cap.exempt)}
        choose={(v) => save({ ...cap, exempt: v === 'true' })}
        inline
        of={[
          { value: 'false', label: 'counts' },
          { value: 'true', label: 'does not count' },
        ]}
      />
      . It has{' '}
      <Choice
        label="Priority"
        hideLabel
        value={cap.priority}
        choose={(v) => save({ ...cap, priority: Number(v) })}
        inline
        of={['first', 'high', 'ordinary', 'low', 'last'].map((w, i) => ({
          value: i + 1,
          label: w === 'ordinary' ? 'ordinary priority' : `${w} priority`,
        }))}
      />
      . An email that has to give way{' '}
      <Choice
        label="What becomes of an email that gives way"
        hideLabel
        value={cap.yields}
        choose={(v) => save({ ...cap, yields: v })}
        inline
        of={[
          { value: 'later', label: 'goes out a day later' },
          { value: 'skip', label: 'is left out' },
        ]}
      />
      .
    </p>
  );
}

/** How long a one-off can still be held after "Send", for the whole workspace. */
export function GraceSentence({ minutes }: { minutes: number }) {
  const [set] = useSetGraceMutation();
  const some = [...new Set([0, 1, 2, 5, 10, 15, 30, 60, minutes])].sort((a, b) => a - b);
  return (
    <p className="leading-9">
      Between “Send it off” and the first email it waits{' '}
      <Choice
        label="Minutes in which a one-off can be held, for the whole workspace"
        hideLabel
        value={minutes}
        choose={(v) => void set(Number(v))}
        inline
        of={some.map((n) => ({ value: n, label: n === 0 ? 'no time' : n === 1 ? 'a minute' : `${n} minutes` }))}
      />
      {minutes === 0 ? '' : ': until then every screen counts down, and it can be held'}.
    </p>
  );
}
