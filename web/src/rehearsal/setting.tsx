import { Plus, X } from 'lucide-react';
import { fromWall, toWall, zoneOf, type Behaviour, type Sequence } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useAct, useApp } from '../app/store.ts';
import { ReaderChoice, type Reader } from '../composer/reader.tsx';
import { Button, IconButton } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { InventedPerson } from './invented.tsx';
import { rehearse } from './rehearsing.ts';
import { MomentParts } from '../ui/moment-field.tsx';
import { NumberInput } from '../ui/number-field.tsx';

export const behaviours: { value: string; words: string; behaviour: Behaviour }[] = [
  { value: 'ignores', words: 'never opens', behaviour: { does: 'ignores' } },
  { value: 'opens', words: 'opens, never clicks', behaviour: { does: 'opens' } },
  { value: 'clicks', words: 'opens and clicks', behaviour: { does: 'clicks', link: null } },
];

/** The sentence that says what is rehearsed: who, when, what they do, and what happens besides. */
export function RehearsalSetting({
  reader,
  around,
  doc,
  zoneName,
  now,
}: {
  reader: Reader;
  around: Surroundings;
  doc: Sequence;
  zoneName: string;
  now: number;
}) {
  const dispatch = useAct();
  const { at, usually, events, invented } = useApp((s) => s.rehearsing);
  const zone = zoneOf(zoneName);
  const local = new Date(toWall(zone, at ?? now)).toISOString().slice(0, 16);
  const setMoment = (text: string) => {
    const wall = Date.parse(`${text}:00Z`);
    dispatch(rehearse({ at: Number.isNaN(wall) ? null : fromWall(zone, wall) }));
  };
  const setEvents = (next: typeof events) => dispatch(rehearse({ events: next }));
  return (
    <div className="flex flex-wrap items-center gap-x-2 gap-y-1.5 text-ink-2">
      <h2 className="font-sans font-bold text-ink">Rehearsal</h2>
      {invented ? (
        <InventedPerson invented={invented} around={around} />
      ) : (
        <>
          <ReaderChoice reader={reader} label="Who is rehearsed" />
          <Button
            tone="quiet"
            onClick={() =>
              dispatch(rehearse({ invented: { name: 'Marta', zone: zoneName, tags: [], attributes: {} } }))
            }
          >
            or somebody invented
          </Button>
        </>
      )}
      {doc.triggers[0]?.kind === 'list' ? 'joins' : 'starts it'}
      <MomentParts label={`When, in ${zoneName}`} wall={local} save={setMoment} />
      and
      <Choice
        label="What they do with emails"
        hideLabel
        value={usually.does}
        choose={(v) =>
          dispatch(rehearse({ usually: behaviours.find((b) => b.value === v)?.behaviour ?? { does: 'opens' } }))
        }
        className="w-44"
        of={behaviours.map((b) => ({ value: b.value, label: b.words }))}
      />
      {events.map((e, i) => (
        <span key={i} className="flex items-center gap-1">
          then
          <Choice
            label="What happens"
            hideLabel
            value={e.name}
            choose={(v) => setEvents(events.map((k, at_) => (at_ === i ? { ...k, name: v } : k)))}
            className="w-44"
            of={around.kinds.map((k) => ({ value: k.name, label: k.label }))}
          />
          on day
          <NumberInput
            label="On which day"
            least={0}
            most={730}
            step={0.5}
            decimals={2}
            value={e.day}
            save={(day) => setEvents(events.map((k, at_) => (at_ === i ? { ...k, day } : k)))}
            className="!w-16"
          />
          <IconButton name="Take this event out" onClick={() => setEvents(events.filter((_, at_) => at_ !== i))}>
            <X size={14} />
          </IconButton>
        </span>
      ))}
      {around.kinds.length > 0 && (
        <Button
          tone="quiet"
          onClick={() =>
            setEvents([
              ...events,
              { name: (around.kinds.find((k) => k.name === 'order.paid') ?? around.kinds[0])?.name ?? '', day: 2 },
            ])
          }
        >
          <Plus size={14} aria-hidden="true" />
          Something happens
        </Button>
      )}
    </div>
  );
}
