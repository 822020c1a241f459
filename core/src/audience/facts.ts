import type { OfferFact } from '../offer/index.ts';
import { isZone } from '../time/index.ts';

/** A condition, as far as facts know of one: which kinds there are is known to the conditions alone. */
export interface AnyCondition {
  kind: string;
}

/** Value of an attribute or of a payload field. Dates are ISO 8601 text; lists hold text. */
export type Value = string | number | boolean | readonly string[] | null;

export type MailStatus = 'ok' | 'unsubscribed' | 'bounced' | 'complained';
export type MembershipState = 'pending' | 'confirmed' | 'left';

/** How somebody came to be on a list. */
export const joinedHow = ['form', 'import', 'api', 'hand', 'sequence', 'preferences'] as const;
export type JoinedHow = (typeof joinedHow)[number];

/** One email that somebody was sent, of any sequence. Instants are epoch ms. */
export interface MailFact {
  sentAt: number;
  openedAt: number | null;
  clickedAt: number | null;
  /** Clicks with the link's address and words as written in the email. Loaded only where a condition asks for a link. */
  clicks?: readonly { at: number; address: string; words: string }[];
}

/** How somebody stands to a sequence: they are in it, have come to its end, or have reached its goal. */
export interface SequenceFact {
  inside: boolean;
  ended: boolean;
  goal: boolean;
}

export interface PersonFacts {
  id: string;
  email: string;
  mailStatus: MailStatus;
  /** IANA zone; `zoneAssumed` when it is the workspace's and not the person's own. */
  zone: string;
  zoneAssumed: boolean;
  attributes: Readonly<Record<string, Value>>;
  tags: readonly string[];
  points: number;
  /** List id to the state of membership. */
  lists: Readonly<Record<string, MembershipState>>;
  /** Since when (epoch ms) and by what they are on the lists that they have confirmed. Loaded only where that is asked. */
  joined?: Readonly<Record<string, { at: number; how: JoinedHow | null }>>;
  /** Until when they want no marketing (epoch ms); absent or null where they want no pause. */
  pausedUntil?: number | null;
  /** So many days that they want between marketing emails, and when the last one was (epoch ms); absent or null for any number. */
  pace?: { days: number; last: number | null } | null;
}

export interface EventFact {
  /** Tells it from others; absent where it is made up. */
  id?: string;
  name: string;
  /** When it happened, epoch ms. */
  at: number;
  payload: Readonly<Record<string, unknown>>;
}

/** What became of one email of the visit's own sequence. Instants are epoch ms. */
export interface EmailFact {
  sentAt: number;
  openedAt: number | null;
  clickedAt: number | null;
  /** First click per link, by its address as written in the email. Loaded only where a condition asks for a link. */
  links?: Readonly<Record<string, number>>;
}

/** What decides whether an email has to give way. */
export interface Mailing {
  /** Marketing emails to one person on one local day, at most; null for no cap. */
  cap: number | null;
  /** How many they have been given, by local day (days since 1970 in their zone). */
  given: Readonly<Record<number, number>>;
  /** Emails that other live sequences are about to send them: when (epoch ms), the sequence's priority, 1 first, and whether it is outside the cap. */
  others: readonly { at: number; priority: number; sequence: string; exempt: boolean }[];
}

/** How far a split is that is decided by a rule. */
export interface TestFact {
  /** The arm that everybody takes from now on; null while it is not decided. */
  arm: string | null;
  /** When it is decided (epoch ms); null while nobody has taken part. */
  decidesAt: number | null;
}

/**
 * All that a decision about one person can look at. `needs(version)` says which events must be here; the server
 * loads them, a rehearsal makes them up.
 */
export interface Facts {
  person: PersonFacts;
  /** Rules of the workspace's segments that are asked for, by id. A segment that is gone has nobody in it. */
  segments?: Readonly<Record<string, AnyCondition>>;
  /** What else mails this person; absent where no cap is set. */
  mailing?: Mailing;
  /** Offers that are asked for, by id. One that is gone is not there. */
  offers?: Readonly<Record<string, OfferFact>>;
  events: readonly EventFact[];
  /** Splits of this sequence that are decided by a rule, by step id. Absent where nobody decides: in a rehearsal. */
  tests?: Readonly<Record<string, TestFact>>;
  /** By step id of this sequence. */
  emails: Readonly<Record<string, EmailFact>>;
  /** Every email that they were sent, where that is asked. */
  mail?: readonly MailFact[];
  /** Sequences that are asked for, by id. One that they were never in is not there. */
  sequences?: Readonly<Record<string, SequenceFact>>;
}

/** The event that tells that mail goes to somebody again who had unsubscribed, or whose address had bounced. */
export const RESUBSCRIBED_EVENT = 'resubscribed';

/**
 * What is known of somebody. What is not said is as for anybody: mail goes to them, they are on no list and have done
 * nothing, and live in UTC as nobody knows their zone.
 */
export const factsAbout = (person: Partial<PersonFacts> = {}, known: Partial<Omit<Facts, 'person'>> = {}): Facts => ({
  person: {
    id: 'anybody',
    email: '',
    mailStatus: 'ok',
    zone: 'UTC',
    zoneAssumed: person.zone === undefined,
    attributes: {},
    tags: [],
    points: 0,
    lists: {},
    ...person,
  },
  events: [],
  emails: {},
  ...known,
});

/** The zone in which somebody lives: their own where they have one, or it is assumed to be the workspace's. */
export const zoneOfPerson = (own: string | null, home: string): Pick<PersonFacts, 'zone' | 'zoneAssumed'> => {
  const known = own !== null && isZone(own);
  return { zone: known ? own : home, zoneAssumed: !known };
};
