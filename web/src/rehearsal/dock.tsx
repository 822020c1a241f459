import { X } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import {
  type EventFact,
  type Facts,
  factsAbout,
  momentWords,
  type Rehearsal,
  type RehearsalRequest,
  type Sequence,
  startingEvents,
  traceNames,
  zoneOf,
  zoneOfPerson,
} from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useSurroundings } from '../app/around.ts';
import { useMeQuery } from '../app/api.ts';
import { useClockQuery } from '../outside/endpoints.ts';
import { useAct, useApp } from '../app/store.ts';
import { offersOf } from '../composer/reading.ts';
import { useReader, type Reader } from '../composer/reader.tsx';
import { Button, IconButton } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { rehearse, type Invented, type Rehearsing } from './rehearsing.ts';
import { RehearsalSetting } from './setting.tsx';
import { marksOf, Reasons, Timeline } from './timeline.tsx';
import { useRehearsal } from './use-rehearsal.ts';

const DAY = 86_400_000;

/** Who is rehearsed: somebody real, or somebody invented who has confirmed what the sequence mails under. */
function personOf(reader: Reader, invented: Invented | null, homeZone: string): Omit<Facts['person'], 'lists'> | null {
  const { person } = reader;
  if (invented)
    return factsAbout({
      id: `invented ${invented.name}`,
      email: 'invented@readers.example',
      zone: invented.zone,
      attributes: { first_name: invented.name, ...invented.attributes },
      tags: invented.tags,
    }).person;
  if (!person) return null;
  const { id, email, mailStatus, attributes, tags, points } = person;
  return { id, email, mailStatus, attributes, tags, points, ...zoneOfPerson(person.zone, homeZone) };
}

/** The person as the engine would know them at the moment of entry: the trigger has just put them on its list. */
function requestOf(
  doc: Sequence,
  reader: Reader,
  setting: Rehearsing,
  homeZone: string,
  at: number,
  around: Surroundings,
): RehearsalRequest | null {
  const { lists, past, context, known, mail, sequences } = reader;
  const person = personOf(reader, setting.invented, homeZone);
  if (!person) return null;
  const joined = Object.fromEntries(
    [
      ...doc.triggers.flatMap((t) => (t.kind === 'list' && t.what === 'joined' ? [t.list] : [])),
      ...(setting.invented && doc.list ? [doc.list] : []),
    ]
      .filter(Boolean)
      .map((list) => [list, 'confirmed' as const]),
  );
  const facts: Facts = {
    person: {
      ...person,
      ...(setting.invented ? {} : known),
      lists: { ...(setting.invented ? {} : lists), ...joined },
      joined: {
        ...(setting.invented ? {} : known.joined),
        ...Object.fromEntries(Object.keys(joined).map((list) => [list, { at, how: null }])),
      },
    },
    mail: setting.invented ? [] : mail.filter((m) => m.sentAt <= at),
    sequences: setting.invented ? {} : sequences,
    events: setting.invented ? [] : past.filter((e) => e.at <= at),
    emails: {},
    segments: Object.fromEntries(around.segments.map((s) => [s.id, s.rule])),
    offers: offersOf(around, setting.invented ? undefined : reader.given),
  };
  const sample = around.kinds.find((k) => startingEvents(doc.triggers).includes(k.name))?.sample ?? {};
  const entry = setting.invented ? sample : startingEvents(doc.triggers).length > 0 ? context.event : {};
  const events: EventFact[] = setting.events.map((e) => ({
    name: e.name,
    at: at + Math.round(e.day * DAY),
    payload: around.kinds.find((k) => k.name === e.name)?.sample ?? {},
  }));
  return {
    sequence: doc,
    facts,
    at,
    entry,
    usually: setting.usually,
    emails: setting.emails,
    events,
    cap: around.dailyCap,
  };
}

/** Until when they wait at each step, in words. */
function endsOf(rehearsal: Rehearsal, zoneName: string): Record<string, string> {
  const waits = rehearsal.moments.flatMap((m) =>
    m.kind === 'decided' && m.entry.step && ['wait-begun', 'wait-until'].includes(m.entry.code) ? [m.entry] : [],
  );
  return Object.fromEntries(waits.map((w) => [w.step ?? '', momentWords(zoneOf(zoneName), Number(w.data.until))]));
}

/** Under the plan: one person goes through the draft as it stands, and nothing is sent. */
export function RehearsalDock({ doc, select }: { doc: Sequence; select: (step: string) => void }) {
  const around = useSurroundings();
  const { data: me } = useMeQuery();
  const { data: clock } = useClockQuery();
  const setting = useApp((s) => s.rehearsing);
  const dispatch = useAct();
  const reader = useReader(doc, around, null);
  const words = useNames(doc);
  const [why, setWhy] = useState(false);
  const homeZone = me?.workspace.zone ?? 'UTC';
  const now = setting.at ?? clock?.now;
  const request = around && now !== undefined ? requestOf(doc, reader, setting, homeZone, now, around) : null;
  const result = useRehearsal(request);
  const zoneName = setting.invented?.zone ?? reader.person?.zone ?? homeZone;
  const names = useMemo(() => traceNames(doc, words, zoneName), [doc, words, zoneName]);
  useEffect(() => {
    dispatch(rehearse({ path: result?.path ?? null, ends: result ? endsOf(result, zoneName) : {} }));
  }, [result, zoneName, dispatch]);
  useEffect(() => () => void dispatch(rehearse({ path: null, ends: {} })), [dispatch]);
  if (!around || now === undefined) return null;
  const marks = result ? marksOf(result, names) : [];
  const emails = result?.moments.filter((m) => m.kind === 'email').length ?? 0;
  const days = result?.endsAt ? Math.round((result.endsAt - now) / DAY) : null;
  const sum = !result
    ? ''
    : !result.entered
      ? 'Does not enter'
      : `${emails} ${emails === 1 ? 'email' : 'emails'}${days === null ? ', still inside after two years' : ` in ${days} ${days === 1 ? 'day' : 'days'}`}`;
  return (
    <section aria-label="Rehearsal" className="flex shrink-0 flex-col gap-2 border-t border-line bg-paper-2 px-5 py-3">
      <div className="flex items-start gap-3">
        <div className="flex-1">
          <RehearsalSetting reader={reader} around={around} doc={doc} zoneName={homeZone} now={now} />
        </div>
        <p role="status" className="pt-1.5 text-[13px] text-ink-2">
          {sum}
        </p>
        <Button tone="quiet" aria-expanded={why} onClick={() => setWhy(!why)}>
          {why ? 'Hide the reasons' : 'Reasons'}
        </Button>
        <IconButton name="Close the rehearsal" onClick={() => dispatch(rehearse({ open: false }))}>
          <X size={16} />
        </IconButton>
      </div>
      {!reader.person && !setting.invented && (
        <p className="text-ink-2">Nobody to rehearse with yet: add a person under People, or invent one.</p>
      )}
      {doc.list !== null && result?.entered && (
        <p className="text-[13px] text-ink-2">
          Rehearsed by itself: emails of other sequences are not counted in
          {around.dailyCap === null ? '' : ', the daily cap only among its own'}.
        </p>
      )}
      {result && <Timeline marks={marks} zoneName={zoneName} select={select} />}
      {result && why && <Reasons rehearsal={result} names={names} />}
    </section>
  );
}
