import type { MergeContext, Sequence } from '@ascenso/core';
import { momentWords, zoneOf } from '@ascenso/core';
import type { PersonRow, Surroundings } from '@ascenso/contracts';
import { useMeQuery, usePeopleQuery, usePersonEventsQuery } from '../app/api.ts';
import { readAs, useAct, useApp, withEvent } from '../app/store.ts';
import { inputClass } from '../ui/index.tsx';

export const personName = (p: Pick<PersonRow, 'attributes' | 'email'>) =>
  [p.attributes.first_name, p.attributes.last_name].filter(Boolean).join(' ') || p.email;

/** Who the email is read as, and with which of their events; what the merge fields are then filled from. */
export function useReader(doc: Sequence | null, around: Surroundings | undefined, senderId: string) {
  const chosen = useApp((s) => s.reader);
  const { data } = usePeopleQuery({ q: '', offset: 0, limit: 50 });
  const people = data?.people ?? [];
  const person = people.find((p) => p.id === chosen.person) ?? people[0];
  const { data: theirs } = usePersonEventsQuery(person?.id ?? '', { skip: !person });
  const wanted = doc?.trigger.kind === 'event' ? doc.trigger.event : null;
  const events = (theirs?.events ?? []).filter((e) => !wanted || e.name === wanted);
  const event = events.find((e) => e.id === chosen.event) ?? (wanted ? events[0] : undefined);
  const sample = wanted ? (around?.kinds.find((k) => k.name === wanted)?.sample ?? {}) : {};
  const sender = around?.senders.find((s) => s.id === senderId) ?? around?.senders.find((s) => s.isDefault);
  const context: MergeContext = {
    subscriber: person ? { ...person.attributes, email: person.email } : {},
    event: event?.payload ?? sample,
    sender: sender ? { name: sender.name, email: sender.email, ...sender.fields } : {},
  };
  return { people, person, events, event, context, wanted };
}

export function ReaderBar({ reader, around }: { reader: ReturnType<typeof useReader>; around: Surroundings }) {
  const dispatch = useAct();
  const { data: me } = useMeQuery();
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const { people, person, events, event, wanted } = reader;
  return (
    <div className="flex items-center gap-2 text-[13px] text-ink-2">
      Reading as
      <select aria-label="Reading as" value={person?.id ?? ''} onChange={(e) => dispatch(readAs(e.target.value))} className={`${inputClass} !w-48`}>
        {people.length === 0 && <option value="">nobody yet</option>}
        {people.map((p) => <option key={p.id} value={p.id}>{personName(p)}</option>)}
      </select>
      {(wanted || events.length > 0) && (
        <>
          with
          <select aria-label="With the event" value={event?.id ?? ''} onChange={(e) => dispatch(withEvent(e.target.value || null))} className={`${inputClass} !w-60`}>
            {!wanted && <option value="">no event</option>}
            {wanted && events.length === 0 && <option value="">a made-up sample</option>}
            {events.map((e) => <option key={e.id} value={e.id}>{around.kinds.find((k) => k.name === e.name)?.label ?? e.name}, {momentWords(zone, e.at)}</option>)}
          </select>
        </>
      )}
    </div>
  ); // prettier-ignore
}
