import { CalendarDays, ChevronLeft, ChevronRight, Download } from 'lucide-react';
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import {
  dateWords,
  DAY,
  dayNumber,
  emailSteps,
  findStep,
  fromWall,
  indexSteps,
  momentWords,
  MONTHS,
  placeWords,
  stepWords,
  toWall,
  wallOf,
  wayWords,
  zoneOf,
  type Facts,
  type LandingRequest,
  type Sequence,
  type Zone,
} from '@ascenso/core';
import { useSurroundings } from '../app/around.ts';
import { useMeQuery } from '../app/api.ts';
import { useClockQuery } from '../outside/endpoints.ts';
import { useAct, useApp } from '../app/store.ts';
import { ReaderChoice, useReader } from '../composer/reader.tsx';
import { rehearse } from '../rehearsal/rehearsing.ts';
import { useLandings } from '../rehearsal/use-rehearsal.ts';
import { Button, buttonClass, IconButton } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { Everyone } from './everyone.tsx';
import { MomentParts } from '../ui/moment-field.tsx';
import { ViewTabs } from '../ui/tabs.tsx';

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ';
/** Ways that have a letter of their own; beyond them the plan is the better picture. */
const LETTERED = 12;

interface Entry {
  step: string;
  at: number;
  heldFrom: number | null;
  ways: number[];
}

/** What lands on each day, by local day number: an email that several ways share at one moment stands once. */
function byDay(found: ReturnType<typeof useLandings>, zone: Zone): Map<number, Entry[]> {
  const entries = new Map<string, Entry>();
  found?.ways.forEach((way, i) => {
    for (const l of way.landings) {
      const key = `${l.step}/${l.at}`;
      const known = entries.get(key) ?? { ...l, ways: [] };
      known.ways.push(i);
      entries.set(key, known);
    }
  });
  const days = new Map<number, Entry[]>();
  for (const e of [...entries.values()].sort((a, b) => a.at - b.at)) {
    const day = dayNumber(zone, e.at);
    days.set(day, [...(days.get(day) ?? []), e]);
  }
  return days;
}

/** Weekdays (0 is Sunday) on which no email with a window may go out. */
function closedDays(doc: Sequence): Set<number> {
  const windows = emailSteps(doc).flatMap((s) => (s.on && s.window ? [s.window.days] : []));
  return new Set(windows.length === 0 ? [] : [0, 1, 2, 3, 4, 5, 6].filter((d) => windows.every((w) => !w.includes(d))));
}

const monthOf = (zone: Zone, at: number) => {
  const w = wallOf(zone, at);
  return w.year * 12 + w.month - 1;
};

/** Which ways an email is on: their letters, or how many where there are more than can be lettered. */
const wayLetters = (on: number[], letters: string[], total: number) =>
  total > letters.length ? `${on.length} of ${total} ways` : on.map((w) => letters[w]).join(' ');

interface MonthProps {
  month: number;
  zone: Zone;
  entry: number;
  days: Map<number, Entry[]>;
  closed: Set<number>;
  letters: string[];
  /** Ways that there are. */
  total: number;
  name: (step: string) => string;
  to: (step: string) => string;
}

function Month({ month, zone, entry, days, closed, letters, total, name, to }: MonthProps) {
  const first = Math.floor(Date.UTC(Math.floor(month / 12), month % 12, 1) / DAY);
  const length = Math.floor(Date.UTC(Math.floor(month / 12), (month % 12) + 1, 1) / DAY) - first;
  // Weeks begin on Monday: 1 January 1970 was a Thursday.
  const lead = (((first + 3) % 7) + 7) % 7;
  const cells = Array.from({ length: Math.ceil((lead + length) / 7) * 7 }, (_, i) => first - lead + i);
  const entryDay = dayNumber(zone, entry);
  return (
    <div
      role="table"
      aria-label={`${MONTHS[month % 12]} ${Math.floor(month / 12)}`}
      className="shrink-0 overflow-hidden rounded-sheet border border-line bg-sheet"
    >
      <div role="row" className="grid grid-cols-7 border-b border-line bg-paper-2 text-[12px] text-ink-2">
        {['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'].map((d) => (
          <span key={d} role="columnheader" className="px-2 py-1.5 font-semibold">
            {d}
          </span>
        ))}
      </div>
      {Array.from({ length: cells.length / 7 }, (_, week) => (
        <div key={week} role="row" className="grid grid-cols-7 border-b border-line last:border-0">
          {cells.slice(week * 7, week * 7 + 7).map((day) => {
            const here = day >= first && day < first + length;
            const isClosed = closed.has((((day + 4) % 7) + 7) % 7);
            return (
              <div
                key={day}
                role="cell"
                className={`flex min-h-[92px] flex-col gap-1 border-r border-line p-1.5 last:border-0 ${here ? '' : 'bg-paper'} ${isClosed && here ? 'bg-[repeating-linear-gradient(135deg,transparent_0_6px,#efeae0_6px_8px)]' : ''}`}
              >
                <span
                  className={`text-[12px] tabular-nums ${day === entryDay ? 'self-start rounded-full bg-dawn-tint px-2 font-semibold text-dawn-text' : 'text-ink-2'}`}
                >
                  {new Date(day * DAY).getUTCDate()}
                  {day === entryDay && ' starts'}
                  {isClosed && here && <span className="sr-only">, closed for emails with a window</span>}
                </span>
                {here &&
                  days.get(day)?.map((e) => (
                    <Link
                      key={`${e.step}${e.at}`}
                      to={to(e.step)}
                      title={
                        e.heldFrom === null
                          ? undefined
                          : `Reached ${momentWords(zone, e.heldFrom)}, held for its window`
                      }
                      className="rounded-control border border-[#cfe0d9] bg-spruce-tint px-1.5 py-1 text-[12px] leading-tight text-spruce-deep hover:border-spruce"
                    >
                      <span className="block font-semibold tabular-nums">
                        {new Date(toWall(zone, e.at)).toISOString().slice(11, 16)}
                        {total > 1 && e.ways.length < total && (
                          <span className="font-normal"> · {wayLetters(e.ways, letters, total)}</span>
                        )}
                        {e.heldFrom !== null && <span className="font-normal text-ochre-text"> · held</span>}
                      </span>
                      <span className="block truncate">{name(e.step)}</span>
                    </Link>
                  ))}
              </div>
            );
          })}
        </div>
      ))}
    </div>
  );
}

function OnePerson({ id, doc }: { id: string; doc: Sequence }) {
  const around = useSurroundings();
  const { data: me } = useMeQuery();
  const { data: clock } = useClockQuery();
  const { at } = useApp((s) => s.rehearsing);
  const dispatch = useAct();
  const reader = useReader(doc, around, null);
  const names = useNames(doc);
  const [turned, setTurned] = useState(0);
  const homeZone = me?.workspace.zone ?? 'UTC';
  const { person } = reader;
  const zoneName = person?.zone ?? homeZone;
  const zone = zoneOf(zoneName);
  const entry = at ?? clock?.now;
  const facts: Facts | null = person
    ? { person: { ...person, zone: zoneName, zoneAssumed: person.zone === null, lists: {} }, events: [], emails: {} }
    : null;
  const request: LandingRequest | null =
    facts && entry !== undefined ? { sequence: doc, at: entry, entry: reader.context.event, facts } : null;
  const found = useLandings(request);
  if (entry === undefined) return null;
  const days = byDay(found, zone);
  const steps = indexSteps(doc);
  const month = monthOf(zone, entry) + turned;
  const last = Math.max(entry, ...[...days.values()].flat().map((e) => e.at));
  const ways = found?.ways ?? [];
  const letters = ways.slice(0, LETTERED).map((_, i) => LETTERS[i] ?? '');
  const setMoment = (text: string) => {
    const wall = Date.parse(`${text}:00Z`);
    if (!Number.isNaN(wall)) dispatch(rehearse({ at: fromWall(zone, wall) }));
    setTurned(0);
  };
  const closed = closedDays(doc);
  return (
    <>
      <div className="flex flex-wrap items-center gap-2 text-ink-2">
        <ReaderChoice reader={reader} label="Whose calendar" />
        enters
        <MomentParts
          label={`When, in ${zoneName}`}
          wall={new Date(toWall(zone, entry)).toISOString().slice(0, 16)}
          save={setMoment}
        />
        in {placeWords(zoneName)}
        <span className="flex-1" />
        <IconButton name="The month before" onClick={() => setTurned(turned - 1)}>
          <ChevronLeft size={16} />
        </IconButton>
        <h2 className="w-36 text-center font-sans font-semibold text-ink">
          {MONTHS[month % 12]} {Math.floor(month / 12)}
        </h2>
        <IconButton name="The month after" onClick={() => setTurned(turned + 1)}>
          <ChevronRight size={16} />
        </IconButton>
        <a
          className={buttonClass('plain')}
          href={`/api/sequences/${id}/calendar.ics?${new URLSearchParams({ at: String(entry), ...(person ? { person: person.id } : {}) })}`}
        >
          <Download size={15} aria-hidden="true" />
          As a calendar file
        </a>
      </div>
      <Month
        month={month}
        zone={zone}
        entry={entry}
        days={days}
        closed={closed}
        letters={letters}
        total={ways.length}
        name={(step) => {
          const s = findStep(doc, step)?.step;
          return s ? stepWords(s, names) : '';
        }}
        to={(step) => `/sequences/${id}?select=${step}`}
      />
      {closed.size > 0 && (
        <p className="text-[12px] text-ink-2">Hatched: no email with a window goes out on these days.</p>
      )}
      {monthOf(zone, last) > month && (
        <p className="text-ink-2">
          It goes on until {dateWords(zone, last, true)}.{' '}
          <Button tone="quiet" onClick={() => setTurned(monthOf(zone, last) - monthOf(zone, entry))}>
            Go to its end
          </Button>
        </p>
      )}
      {ways.length > 1 && (
        <section className="flex flex-col gap-1">
          <h3 className="font-sans font-semibold">Ways through it</h3>
          <ul className="flex flex-col gap-0.5 text-ink-2">
            {ways.slice(0, LETTERED).map((w, i) => (
              <li key={i}>
                <b className="inline-block w-6 font-semibold text-ink">{letters[i]}</b>
                {wayWords(w, steps, names) || 'straight through'}: {w.landings.length}{' '}
                {w.landings.length === 1 ? 'email' : 'emails'}
              </li>
            ))}
            {(ways.length > LETTERED || found?.cut) && <li>and more: fork by fork, the plan shows them better.</li>}
          </ul>
        </section>
      )}
    </>
  );
}

/** Where each email really lands: for one person on every way, or everyone's volume by day. */
export function CalendarView() {
  const id = useParams().id as string;
  const doc = useApp((s) => s.draft.doc);
  const [params, setParams] = useSearchParams();
  const everyone = params.get('of') === 'everyone';
  if (!doc) return null;
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-3 overflow-auto p-5">
      <div className="flex items-center gap-3">
        <CalendarDays size={18} aria-hidden="true" className="text-ink-2" />
        <p className="flex-1 text-ink-2">
          {everyone ? 'Every live sequence, day by day' : 'The draft as it stands, by the same clockwork that sends'}
        </p>
        <ViewTabs
          name="Whose calendar"
          value={everyone ? 'everyone' : 'one'}
          views={[
            ['one', 'One person'],
            ['everyone', 'Everyone'],
          ]}
          choose={(of) => setParams(of === 'everyone' ? { of } : {}, { replace: true })}
        />
      </div>
      {everyone ? <Everyone current={id} /> : <OnePerson id={id} doc={doc} />}
    </div>
  );
}
