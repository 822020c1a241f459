import type { CapRules, EntryRules } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useChangeMutation } from '../app/api.ts';
import { inputClass } from '../ui/index.tsx';

const inline = `${inputClass} inline-block`;

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
      <select
        aria-label="The same person may enter"
        value={entry.again}
        onChange={(e) => save({ ...entry, again: e.target.value as EntryRules['again'] })}
        className={`${inline} !w-44`}
      >
        <option value="once">once ever</option>
        <option value="after-leaving">again after leaving</option>
        <option value="after-days">again after some days</option>
      </select>
      {entry.again === 'after-days' && (
        <>
          :{' '}
          <input
            aria-label="Days until they may enter again"
            type="number"
            min={1}
            max={3650}
            value={entry.days}
            onChange={(e) => Number(e.target.value) >= 1 && save({ ...entry, days: Number(e.target.value) })}
            className={`${inline} !w-20`}
          />{' '}
          days since they entered last
        </>
      )}
      {fields.length > 0 && (
        <>
          , with{' '}
          <select
            aria-label="Stories kept apart"
            value={entry.key}
            onChange={(e) => save({ ...entry, key: e.target.value })}
            className={`${inline} !w-48`}
          >
            <option value="">one story at a time</option>
            {fields.map((f) => (
              <option key={f} value={f}>
                one for each {f.replaceAll('_', ' ')}
              </option>
            ))}
          </select>
        </>
      )}
      .{' '}
      <input
        aria-label="Share held out, percent"
        type="number"
        min={0}
        max={50}
        value={entry.holdout}
        onChange={(e) =>
          e.target.value !== '' &&
          Number(e.target.value) >= 0 &&
          Number(e.target.value) <= 50 &&
          save({ ...entry, holdout: Number(e.target.value) })
        }
        className={`${inline} !w-16`}
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
  const [change] = useChangeMutation();
  const setCap = (text: string) =>
    void change({ url: '/cap', method: 'PUT', body: { dailyCap: text === '' ? null : Number(text) } });
  return (
    <p className="leading-9">
      Nobody gets more than{' '}
      <select
        aria-label="Emails a day, for the whole workspace"
        value={around.dailyCap ?? ''}
        onChange={(e) => setCap(e.target.value)}
        className={`${inline} !w-32`}
      >
        <option value="">any number of</option>
        {[1, 2, 3, 4, 5].map((n) => (
          <option key={n} value={n}>
            {n}
          </option>
        ))}
      </select>{' '}
      emails a day from all sequences together; for this one that{' '}
      <select
        aria-label="Whether the daily cap counts"
        value={String(cap.exempt)}
        onChange={(e) => save({ ...cap, exempt: e.target.value === 'true' })}
        className={`${inline} !w-36`}
      >
        <option value="false">counts</option>
        <option value="true">does not count</option>
      </select>
      . It has{' '}
      <select
        aria-label="Priority"
        value={cap.priority}
        onChange={(e) => save({ ...cap, priority: Number(e.target.value) })}
        className={`${inline} !w-44`}
      >
        {['first', 'high', 'ordinary', 'low', 'last'].map((w, i) => (
          <option key={w} value={i + 1}>
            {w === 'ordinary' ? 'ordinary priority' : `${w} priority`}
          </option>
        ))}
      </select>
      . An email that has to give way{' '}
      <select
        aria-label="What becomes of an email that gives way"
        value={cap.yields}
        onChange={(e) => save({ ...cap, yields: e.target.value as CapRules['yields'] })}
        className={`${inline} !w-44`}
      >
        <option value="later">goes out a day later</option>
        <option value="skip">is left out</option>
      </select>
      .
    </p>
  );
}
