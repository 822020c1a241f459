import {
  type EmailStep,
  type Facts,
  factsAbout,
  type MergeContext,
  offerValues,
  recentOf,
  type Sequence,
  withSamples,
} from '@ascenso/core';
import type { Me, ReaderAnswer, Surroundings } from '@ascenso/contracts';

/** What an email is filled from for one reader. Plain data, so that a worker can be given it. */
export interface Reading {
  context: Omit<MergeContext, 'holds'>;
  /** The moment that it is read at, epoch ms on the business clock. */
  now: number;
  /** Null where nobody has been chosen: then nobody fits any condition. */
  facts: Facts | null;
}

/** A reader as the send loop would know them, with one of their events or a sample. */
export function readingOf(
  theirs: ReaderAnswer | undefined,
  event: Record<string, unknown>,
  { around, me, doc, step }: { around: Surroundings; me: Me | undefined; doc: Sequence | null; step: EmailStep | null },
): Reading {
  const sender = around.senders.find((s) => s.id === step?.email.sender) ?? around.senders.find((s) => s.isDefault);
  const person = theirs?.person;
  const zone = person?.zone ?? me?.workspace.zone ?? 'UTC';
  const language = typeof person?.attributes['language'] === 'string' ? person.attributes['language'] : '';
  const facts = factsFor(theirs, zone, around);
  const given = step?.email.offer === undefined ? undefined : facts.offers?.[step.email.offer];
  return {
    now: around.now,
    context: {
      subscriber: person ? { ...person.attributes, email: person.email } : {},
      event,
      sender: sender ? { name: sender.name, email: sender.email, ...sender.fields } : {},
      ...(given ? { offer: offerValues(given.offer, given.given, around.now, language) } : {}),
      recent: recentOf(
        theirs?.events ?? [],
        around.kinds.map((k) => k.name),
      ),
      sequence: { name: doc?.name ?? '', email: step?.name ?? '' },
      locale: { language, zone, currency: around.currency },
    },
    facts: theirs ? facts : null,
  };
}

/** What is known of a reader, their offers with sample codes: as they have them, or as they would be given them now. */
function factsFor(theirs: ReaderAnswer | undefined, zone: string, around: Surroundings): Facts {
  const facts = factsAbout(
    { ...theirs?.person, ...theirs?.known, zone, zoneAssumed: !theirs?.person?.zone, lists: theirs?.lists ?? {} },
    {
      mail: theirs?.mail ?? [],
      sequences: theirs?.sequences ?? {},
      events: [...(theirs?.events ?? [])].sort((a, b) => a.at - b.at),
      segments: Object.fromEntries(around.segments.map((s) => [s.id, s.rule])),
      offers: offersOf(around, theirs?.given),
    },
  );
  return withSamples(facts, around.now);
}

/** The offers of a workspace as facts about somebody. */
export const offersOf = (
  around: Pick<Surroundings, 'offers'>,
  given: ReaderAnswer['given'] | undefined,
): NonNullable<Facts['offers']> =>
  Object.fromEntries(
    around.offers.map((o) => [
      o.id,
      { offer: o.offer, given: given?.[o.id] ?? null, stock: o.left === null || o.left > 0 },
    ]),
  );
