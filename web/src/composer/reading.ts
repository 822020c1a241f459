import { recentOf, type EmailStep, type Facts, type MergeContext, type Sequence } from '@ascenso/core';
import type { Me, ReaderAnswer, Surroundings } from '@ascenso/contracts';

/** What an email is filled from for one reader. Plain data, so that a worker can be given it. */
export interface Reading {
  context: Omit<MergeContext, 'holds'>;
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
  const language = person?.attributes['language'];
  return {
    context: {
      subscriber: person ? { ...person.attributes, email: person.email } : {},
      event,
      sender: sender ? { name: sender.name, email: sender.email, ...sender.fields } : {},
      recent: recentOf(
        theirs?.events ?? [],
        around.kinds.map((k) => k.name),
      ),
      sequence: { name: doc?.name ?? '', email: step?.name ?? '' },
      locale: { language: typeof language === 'string' ? language : '', zone, currency: around.currency },
    },
    facts: theirs
      ? {
          person: { ...theirs.person, zone, zoneAssumed: theirs.person.zone === null, lists: theirs.lists },
          events: theirs.events,
          emails: {},
          segments: Object.fromEntries(around.segments.map((s) => [s.id, s.rule])),
        }
      : null,
  };
}
