import type { EmailFact, EventFact, Facts, MailFact } from '../audience/index.ts';
import { evaluate, FILE_EVENT } from '../audience/index.ts';
import { linksOf } from '../email/index.ts';
import {
  advance,
  enter,
  findStep,
  localDay,
  needs,
  prepare,
  type Effect,
  type EmailStep,
  type Sequence,
  type TraceEntry,
} from '../sequence/index.ts';
import { sampleCode, type OfferFact } from '../offer/index.ts';
import { MINUTE, zoneOf } from '../time/index.ts';

/** What the rehearsed person does with an email: lets it lie, opens it, or follows a link (its address as written). */
export type Behaviour = { does: 'ignores' } | { does: 'opens' } | { does: 'clicks'; link: string | null };

export interface RehearsalRequest {
  sequence: Sequence;
  /** The person as they are at the beginning, with what they did before. */
  facts: Facts;
  /** Moment of entry, epoch ms, and the payload of the event that starts it. */
  at: number;
  entry: Record<string, unknown>;
  /** What they do with every email, and with single ones by step id. */
  usually: Behaviour;
  emails: Readonly<Record<string, Behaviour>>;
  /** What happens besides, epoch ms. */
  events: readonly EventFact[];
  /** Marketing emails a day, at most, where the workspace has a cap: it counts among the emails of this sequence. */
  cap?: number | null;
}

/** Something on the rehearsed way, in the order in which it happens. */
export type Moment =
  | { at: number; kind: 'decided'; entry: TraceEntry }
  | { at: number; kind: 'email'; step: string }
  | { at: number; kind: 'opened' | 'clicked'; step: string }
  | { at: number; kind: 'event'; name: string };

export interface Rehearsal {
  moments: Moment[];
  /** Ids of the steps and arms that were passed. */
  path: string[];
  /** Null when the person does not enter at all. */
  endsAt: number | null;
  entered: boolean;
  /** True when it was cut off: a rehearsal looks two years ahead. */
  cut: boolean;
}

/** A reader opens a quarter of an hour after an email came, and follows a link two minutes later. */
const OPENS_AFTER = 15 * MINUTE;
const CLICKS_AFTER = OPENS_AFTER + 2 * MINUTE;
const LONGEST = 2 * 366 * 24 * 60 * MINUTE;

type Coming =
  { at: number; event: EventFact } | { at: number; step: string; what: 'opened' | 'clicked'; link?: string };

/** What follows from an email that went out at a moment. */
function reactions(step: EmailStep, at: number, behaviour: Behaviour): Coming[] {
  if (behaviour.does === 'ignores') return [];
  const opened: Coming = { at: at + OPENS_AFTER, step: step.id, what: 'opened' };
  if (behaviour.does === 'opens') return [opened];
  const link = behaviour.link ?? linksOf(step.email)[0]?.address;
  if (link === undefined) return [opened];
  const clicked: Coming = { at: at + CLICKS_AFTER, step: step.id, what: 'clicked', link };
  if (!link.startsWith('file:')) return [opened, clicked];
  return [
    opened,
    clicked,
    { at: clicked.at, event: { name: FILE_EVENT, at: clicked.at, payload: { file: link.slice(5) } } },
  ];
}

/** Emails of this sequence as mail that they got, for questions about all their mail. */
const ownMail = (sequence: Sequence, emails: Readonly<Record<string, EmailFact>>): MailFact[] =>
  Object.entries(emails).map(([id, { sentAt, openedAt, clickedAt, links }]) => {
    const step = findStep(sequence, id)?.step;
    const known = step?.kind === 'email' ? linksOf(step.email) : [];
    const clicks = Object.entries(links ?? {}).map(([address, at]) => ({
      at,
      address,
      words: known.find((l) => l.address === address)?.label ?? '',
    }));
    return { sentAt, openedAt, clickedAt, clicks };
  });

/** What an offer that was given is from then on. Codes are samples: a rehearsal uses none up. */
function giveOffer(offers: Record<string, OfferFact>, effect: Extract<Effect, { kind: 'grant' }>): void {
  const known = offers[effect.offer];
  if (!known) return;
  const code = effect.code === 'own' ? sampleCode(known.offer) : (effect.code?.same ?? null);
  const { at: openedAt, closes: closesAt, discount } = effect;
  offers[effect.offer] = { ...known, given: { openedAt, closesAt, code, usedAt: null, discount } };
}

/**
 * Lets one person live through a sequence as it stands, by the same `advance` that the server calls: exact moments,
 * what is held or passed over and why, and the way they take. Nothing is sent and nothing is kept.
 */
export function rehearse(request: RehearsalRequest): Rehearsal {
  const { sequence, at, usually } = request;
  const run = prepare(sequence);
  const moments: Moment[] = [];
  const path = new Set<string>();
  const events = [...request.facts.events];
  const emails: Record<string, EmailFact> = {};
  let { person } = request.facts;
  const { segments } = request.facts;
  const offers = { ...request.facts.offers };
  const asked = needs(sequence);
  // A segment's rule may ask about all their mail, too.
  const asksMail = asked.mail || asked.segments.length > 0;
  const given: Record<number, number> = {};
  const factsNow = (): Facts => ({
    person,
    ...(request.cap == null ? {} : { mailing: { cap: request.cap, given, others: [] } }),
    ...(segments ? { segments } : {}),
    offers,
    events: [...events].sort((a, b) => a.at - b.at),
    emails,
    ...(asksMail ? { mail: [...(request.facts.mail ?? []), ...ownMail(sequence, emails)] } : {}),
    ...(request.facts.sequences ? { sequences: request.facts.sequences } : {}),
  });
  if (sequence.filter && !evaluate(sequence.filter, { facts: factsNow(), now: at, enteredAt: at, stepTimes: {} })) {
    moments.push({ at, kind: 'decided', entry: { at, step: null, code: 'not-entered', data: {} } });
    return { moments, path: [], endsAt: null, entered: false, cut: false };
  }
  const coming: Coming[] = request.events.filter((e) => e.at >= at).map((event) => ({ at: event.at, event }));
  let visit = enter('rehearsal', 'rehearsal', 0, run, at, request.entry);
  let now = at;
  const happen = (c: Coming) => {
    if ('event' in c) {
      events.push(c.event);
      moments.push({ at: c.at, kind: 'event', name: c.event.name });
      return;
    }
    const known = emails[c.step] as EmailFact;
    emails[c.step] = {
      ...known,
      openedAt: known.openedAt ?? c.at,
      ...(c.what === 'clicked'
        ? {
            clickedAt: known.clickedAt ?? c.at,
            links: { ...known.links, ...(c.link ? { [c.link]: known.links?.[c.link] ?? c.at } : {}) },
          }
        : {}),
    };
    moments.push({ at: c.at, kind: c.what, step: c.step });
  };
  while (visit.status === 'active' && now - at <= LONGEST) {
    coming.sort((a, b) => a.at - b.at);
    const next = coming[0];
    // At one instant: what happens first, then what is due.
    now = Math.min(visit.dueAt, next?.at ?? Infinity);
    while (coming[0] && coming[0].at <= now) happen(coming.shift() as Coming);
    const standing = visit.step;
    const done = advance(visit, run, factsNow(), now);
    visit = done.visit;
    person = done.person;
    if (done.trace.length > 0 && standing) path.add(standing);
    for (const entry of done.trace) {
      if (entry.step) path.add(entry.step);
      if (typeof entry.data.arm === 'string' && entry.code !== 'until-begun') path.add(entry.data.arm);
      moments.push({ at: entry.at, kind: 'decided', entry });
    }
    for (const effect of done.effects) {
      if (effect.kind === 'grant') giveOffer(offers, effect);
      const step = effect.kind === 'send' ? findStep(sequence, effect.step)?.step : undefined;
      if (effect.kind !== 'send' || step?.kind !== 'email') continue;
      const day = localDay(zoneOf(person.zone), effect.dueAt);
      if (sequence.list !== null) given[day] = (given[day] ?? 0) + 1;
      emails[step.id] = { sentAt: effect.dueAt, openedAt: null, clickedAt: null };
      moments.push({ at: effect.dueAt, kind: 'email', step: step.id });
      coming.push(...reactions(step, effect.dueAt, request.emails[step.id] ?? usually));
    }
    if (visit.step) path.add(visit.step);
  }
  const cut = visit.status === 'active';
  return { moments, path: [...path], endsAt: cut ? null : now, entered: true, cut };
}
