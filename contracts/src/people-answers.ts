import type {
  Condition,
  Given,
  ItemMapping,
  MailFact,
  MailStatus,
  MembershipState,
  PersonFacts,
  SequenceFact,
  Value,
} from '@ascenso/core';

// What is answered about people, and about what is known of them.

export interface PersonRow {
  id: string;
  email: string;
  attributes: Record<string, Value>;
  tags: string[];
  points: number;
  zone: string | null;
  mailStatus: MailStatus;
  createdAt: number;
}

export interface ReaderAnswer {
  person: PersonRow;
  events: PersonEvent[];
  /** State of membership by list id. */
  lists: Record<string, MembershipState>;
  /** What they have been given, by offer id. */
  given: Record<string, Given>;
  /** What conditions and the rhythm of mail ask beside it. */
  known: Pick<PersonFacts, 'joined' | 'pausedUntil' | 'pace'>;
  mail: MailFact[];
  sequences: Record<string, SequenceFact>;
}

export interface SegmentCount extends SegmentRow {
  folder: string;
  count: number;
  /** When it was counted (epoch ms), or null where that was just now. */
  countedAt: number | null;
  /** Its size at the beginning of each day (days since 1970), oldest first, since its rule is what it is. */
  sizes: { day: number; people: number }[];
  usedIn: string[];
}

/** For each version of a chain: how many see it now, null where only a passage can answer; how many fit it but see an earlier one; somebody who sees it. */
export interface SeenAnswer {
  total: number;
  versions: { count: number | null; taken: number; example: string | null }[];
}

/** How many people a condition is true for now; null for one that only a passage through a sequence can answer. */
export interface CountAnswer {
  matches: number | null;
  total: number;
  /** True where `matches` is an estimate. */
  about: boolean;
}

export interface PeopleAnswer {
  people: PersonRow[];
  total: number;
}

export interface StoryEntry {
  at: number;
  kind: 'trace' | 'event' | 'open' | 'click' | 'test';
  /** The sentence. */
  text: string;
  sequence: { id: string; name: string } | null;
  /** A send whose message can be looked at as it was sent. */
  send: string | null;
}

export interface PersonAnswer {
  person: PersonRow;
  /** Since when mail has ended for them, each by itself, epoch ms; null where it has not. */
  ends: { unsubscribed: number | null; bounced: number | null; complained: number | null };
  lists: { id: string; name: string; state: MembershipState }[];
  /** The record of consent, the latest first. */
  consent: ConsentRow[];
  inside: { sequence: string; name: string; step: string; due: number }[];
  offers: ({ id: string; name: string } & Given)[];
  story: StoryEntry[];
}

export interface PersonEvent {
  id: string;
  name: string;
  at: number;
  payload: Record<string, unknown>;
}

export interface ListRow {
  id: string;
  name: string;
  confirmed: number;
}

/** A list in full: what its readers see of it, and where it is used. */
export interface ListDetails extends ListRow {
  /** What its readers see it called; '' for its name. */
  publicName: string;
  /** What somebody is told who joins it. */
  told: string;
  pending: number;
  left: number;
  uses: AttributeUse[];
}

export interface TagRow {
  tag: string;
  people: number;
  uses: AttributeUse[];
}

export interface EventKindRow {
  name: string;
  label: string;
  fields: { name: string; type: 'text' | 'number' | 'date' | 'yes-no' | 'list' }[];
  sample: Record<string, unknown>;
  learned: boolean;
  /** Which fields of an item a repeat block shows, by the path of the list. */
  mapping: Record<string, ItemMapping>;
}

export interface AttributeRow {
  key: string;
  label: string;
  type: 'text' | 'number' | 'date' | 'yes-no' | 'list';
  /** A text that is one of these; of any where there are none. */
  options: string[];
}

/** One place where an attribute is used. */
export interface AttributeUse {
  /** Name of the sequence, segment, shared block or template, and where in it. */
  name: string;
  where: string;
  /** The page of the application that it is on. */
  path: string;
  live: boolean;
}

export interface AttributeDetails extends AttributeRow {
  /** How many people have a value. */
  people: number;
  uses: AttributeUse[];
}

export interface SegmentRow {
  id: string;
  name: string;
  rule: Condition;
}

/** One entry of somebody's record of consent. */
export interface ConsentRow {
  id: string;
  /** Name of the list; null for all mail. */
  list: string | null;
  what: 'asked' | 'joined' | 'left';
  at: number;
  how: 'form' | 'import' | 'api' | 'hand' | 'sequence' | 'preferences' | 'one-click' | 'complaint';
  /** What it came by: a form, a file, a key, a colleague, a sequence. */
  source: string;
  /** The words agreed to, or ''. */
  words: string;
  /** Network address or page, as far as it is known. */
  where: string | null;
}

export interface PersonFile {
  format: 'ascenso-person';
  version: 1;
  made_at: string;
  /** Name of the workspace that keeps it. */
  kept_by: string;
  person: {
    email: string;
    attributes: Record<string, unknown>;
    tags: string[];
    zone: string | null;
    points: number;
    since: string;
  };
  mail: {
    unsubscribed_at: string | null;
    bounced_at: string | null;
    complained_at: string | null;
    paused_until: string | null;
    /** Days that they want between marketing emails. */
    days_between: number | null;
  };
  lists: { list: string; state: string; since: string }[];
  /** When they joined and left lists, how, where from, and the words agreed to; a null list is all mail. */
  consent: {
    list: string | null;
    what: string;
    at: string;
    how: string;
    source: string;
    words: string;
    where: string | null;
  }[];
  events: { name: string; at: string; data: Record<string, unknown> }[];
  offers: { offer: string; given_at: string; closes_at: string | null; code: string | null; used_at: string | null }[];
  /** As they were sent; addresses lead where they led, and nothing in them counts. */
  emails: {
    sequence: string;
    sent_at: string;
    to: string;
    subject: string;
    text: string;
    html: string;
    opened: string[];
    clicked: { at: string; address: string }[];
  }[];
  story: { at: string; text: string; sequence: string | null }[];
}

/** One place where a field of a kind of event is used. */
export interface FieldUse {
  field: string;
  /** Name of the email, or "a condition". */
  where: string;
  sequence: { id: string; name: string };
  /** In the version that is live; else in the draft only. */
  live: boolean;
}
