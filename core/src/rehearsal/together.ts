import type { Facts, Mailing, PersonFacts } from '../audience/index.ts';
import type { OfferFact } from '../offer/index.ts';
import { advance, localDay, nextEmailAt, type Effect, type Runnable, type Visit } from '../sequence/index.ts';
import { zoneOf, type Zone } from '../time/index.ts';

/** One of the passages that a person is in. */
export interface Inside {
  visit: Visit;
  run: Runnable;
  facts: Facts;
}

/** The daily cap, null for none, and what they have been given, by local day (days since 1970 in their zone). */
export type DayRules = Pick<Mailing, 'cap' | 'given'>;

/** Something that a passage is expected to bring. */
export interface Brought {
  sequence: string;
  effect: Effect;
}

interface Standing extends Inside {
  moved: Visit;
}

function mailingOf(all: readonly Standing[], own: Standing, zone: Zone, { cap, given }: DayRules): Mailing {
  const others = all.flatMap((s) => {
    if (s === own || s.run.sequence.list === null || s.moved.status !== 'active') return [];
    const at = nextEmailAt(s.run, s.moved, zone);
    const { priority, exempt } = s.run.sequence.cap;
    return at === null ? [] : [{ at, priority, exempt, sequence: s.moved.sequence }];
  });
  return { cap, given, others };
}

/**
 * What everything that one person is inside of brings them from `now` until `end` (epoch ms): all their passages led on together
 * by `advance`, in the order of their due moments, so that the cap and the order of a day are those of the engine, and what
 * one passage changes of the person, or gives them, the others know.
 */
export function together(inside: readonly Inside[], rules: DayRules, now: number, end: number): Brought[] {
  const all: Standing[] = inside.map((i) => ({ ...i, moved: i.visit }));
  const out: Brought[] = [];
  const given: Record<number, number> = { ...rules.given };
  const offers: Record<string, OfferFact['given']> = {};
  let person: PersonFacts | undefined = all[0]?.facts.person;
  for (;;) {
    const next = all
      .filter((s) => s.moved.status === 'active' && s.moved.dueAt <= end)
      .sort((a, b) => a.moved.dueAt - b.moved.dueAt || (a.moved.id < b.moved.id ? -1 : 1))[0];
    if (!next || !person) return out;
    const zone = zoneOf(person.zone);
    const known = Object.fromEntries(
      Object.entries(next.facts.offers ?? {}).map(([id, o]) => [id, { ...o, given: offers[id] ?? o.given }]),
    );
    const facts: Facts = {
      ...next.facts,
      person,
      ...(next.facts.offers ? { offers: known } : {}),
      ...(rules.cap === null ? {} : { mailing: mailingOf(all, next, zone, { cap: rules.cap, given }) }),
    };
    const done = advance(next.moved, next.run, facts, Math.max(now, next.moved.dueAt));
    next.moved = done.visit;
    ({ person } = done);
    for (const effect of done.effects) {
      out.push({ sequence: next.visit.sequence, effect });
      if (effect.kind === 'grant')
        offers[effect.offer] = { openedAt: effect.at, closesAt: effect.closes, code: null, usedAt: null };
      if (effect.kind !== 'send' || next.run.sequence.list === null) continue;
      const day = localDay(zone, effect.dueAt);
      given[day] = (given[day] ?? 0) + 1;
    }
  }
}
