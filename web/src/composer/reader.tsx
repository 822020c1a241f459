import type { ReaderAnswer } from '@ascenso/contracts';
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { useEffect, useState } from 'react';
import { momentWords, startingEvents, zoneOf, type EmailStep, type Sequence } from '@ascenso/core';
import type { PersonRow, Surroundings } from '@ascenso/contracts';
import { useMeQuery } from '../app/api.ts';
import { useReaderQuery } from './endpoints.ts';
import { readAs, useAct, useApp, withEvent } from '../app/store.ts';
import { inputClass } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { readingOf } from './reading.ts';
import { usePeopleQuery } from '../people/people-endpoints.ts';

export const personName = (p: Pick<PersonRow, 'attributes' | 'email'>) =>
  [p.attributes.first_name, p.attributes.last_name].filter(Boolean).join(' ') || p.email;

const NOTHING_KNOWN: ReaderAnswer['known'] = {};

/** Who the email is read as, and with which of their events; what the merge fields are then filled from. */
export function useReader(doc: Sequence | null, around: Surroundings | undefined, step: EmailStep | null) {
  const { data: me } = useMeQuery();
  const chosen = useApp((s) => s.reader);
  const [q, search] = useState('');
  const wanted = doc ? (startingEvents(doc.triggers)[0] ?? null) : null;
  // For a sequence that an event starts, those who did it and may be mailed come first: only they have something to read it
  // with. Then those on its list.
  const page = { q, offset: 0, limit: 20, on: doc?.list ?? '' };
  const did = usePeopleQuery({ ...page, did: wanted ?? '', within: page.on }, { skip: !wanted });
  const anybody = usePeopleQuery(page);
  const first = wanted ? (did.data?.people ?? []) : [];
  const people = [...first, ...(anybody.data?.people ?? []).filter((p) => !first.some((f) => f.id === p.id))];
  // Nobody chosen yet: somebody who gets mail shows more than somebody who does not.
  const id = chosen.person ?? (people.find((p) => p.mailStatus === 'ok') ?? people[0])?.id ?? '';
  const { data: theirs } = useReaderQuery(id, { skip: id === '' });
  const person = theirs?.person;
  const events = (theirs?.events ?? []).filter((e) => !wanted || e.name === wanted);
  const event = events.find((e) => e.id === chosen.event) ?? (wanted ? events[0] : undefined);
  const sample = wanted ? (around?.kinds.find((k) => k.name === wanted)?.sample ?? {}) : {};
  const reading = around
    ? readingOf(theirs, event?.payload ?? sample, { around, me, doc, step })
    : { now: 0, context: { subscriber: {}, event: {}, sender: {} }, facts: null };
  return {
    people,
    person,
    events,
    event,
    reading,
    context: reading.context,
    wanted,
    search,
    past: theirs?.events ?? [],
    lists: theirs?.lists ?? {},
    given: theirs?.given ?? {},
    known: theirs?.known ?? NOTHING_KNOWN,
    mail: theirs?.mail ?? [],
    sequences: theirs?.sequences ?? {},
  };
}

export type Reader = ReturnType<typeof useReader>;

/** Ctrl Shift P reads as the next person, wherever the focus is. */
export function useNextPersonKey({ people, person }: Reader) {
  const dispatch = useAct();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || !e.shiftKey || e.key.toLowerCase() !== 'p') return;
      e.preventDefault();
      const next = people[(people.findIndex((p) => p.id === person?.id) + 1) % people.length];
      if (next) dispatch(readAs(next.id));
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [people, person, dispatch]);
}

/** Finds any person by name or address. */
export function ReaderChoice({ reader, label = 'Reading as' }: { reader: Reader; label?: string }) {
  const dispatch = useAct();
  const { people, person, search } = reader;
  return (
    <Combobox
      immediate
      value={person ?? null}
      by="id"
      onChange={(p) => p && dispatch(readAs(p.id))}
      onClose={() => search('')}
    >
      <ComboboxInput
        aria-label={label}
        autoComplete="off"
        displayValue={(p: PersonRow | null) => (p ? personName(p) : 'nobody yet')}
        onFocus={(e) => e.target.select()}
        onChange={(e) => search(e.target.value)}
        className={`${inputClass} !w-36`}
      />
      <ComboboxOptions
        anchor="bottom start"
        className="z-50 w-72 rounded-control border border-line bg-sheet py-1 shadow-sm [--anchor-gap:4px] [--anchor-max-height:20rem]"
      >
        {people.map((p) => (
          <ComboboxOption
            key={p.id}
            value={p}
            className="flex cursor-pointer flex-col px-3 py-1.5 text-[13px] data-focus:bg-spruce-tint"
          >
            <span className="font-semibold text-ink">{personName(p)}</span>
            <span className="truncate text-[12px] text-ink-2">{p.email}</span>
          </ComboboxOption>
        ))}
        {people.length === 0 && <p className="px-3 py-2 text-ink-2">Nobody is called that.</p>}
      </ComboboxOptions>
    </Combobox>
  );
}

export function ReaderBar({ reader, around }: { reader: Reader; around: Surroundings }) {
  const dispatch = useAct();
  const { data: me } = useMeQuery();
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const { events, event, wanted } = reader;
  return (
    <div className="flex items-center gap-2 text-[13px] text-ink-2">
      <span className="whitespace-nowrap">Reading as</span> <ReaderChoice reader={reader} />
      {(wanted || events.length > 0) && (
        <>
          with
          <Choice
            label="With the event"
            hideLabel
            value={event?.id ?? ''}
            choose={(v) => dispatch(withEvent(v || null))}
            className="w-36"
            of={[
              ...(!wanted ? [{ value: '', label: 'no event' }] : []),
              ...(wanted && events.length === 0 ? [{ value: '', label: 'a made-up sample' }] : []),
              ...(events.map((e) => ({
                value: e.id,
                label: `${around.kinds.find((k) => k.name === e.name)?.label ?? e.name}, ${momentWords(zone, e.at)}`,
              })) ?? []),
            ]}
          />
        </>
      )}
    </div>
  );
}
