import type { Money } from './results.ts';
import type {
  Behind,
  Block,
  Change,
  Email,
  Finding,
  FindingPlace,
  Offer,
  PageDescription,
  Program,
  Saved,
  Sequence,
  Trigger,
} from '@ascenso/core';

export type { Finding, FindingPlace };

/** An error of the intake: problem details (RFC 9457), with a code for programs and the field that is wrong. */
export interface Problem {
  title: string;
  status: number;
  detail: string;
  code: string;
  field?: string;
}

/** Every error answer of the web application's own doors. `field` names the part of the request that is wrong. */
export interface ErrorAnswer {
  error: { code: string; message: string; field?: string };
}

/** One place where a user is signed in. Moments are of the system clock, epoch ms. */
export interface SessionRow {
  id: string;
  createdAt: number;
  seenAt: number;
  /** What the browser says of itself (User-Agent). */
  agent: string;
  /** The one that asks. */
  current: boolean;
}

export interface Me {
  user: { id: string; name: string; email: string; role: 'owner' | 'editor' | 'reviewer' };
  workspace: { id: string; name: string; zone: string; currency: string };
}

export interface RhythmMark {
  step: string;
  name: string;
  /** Elapsed ms since entry, by the shortest way. */
  at: number;
  sent: number;
  opened: number;
  clicked: number;
}
export type SequenceStatus = 'draft' | 'live' | 'paused' | 'archived';
export interface SequenceRow {
  id: string;
  name: string;
  /** What it is for. */
  about: string;
  status: SequenceStatus;
  liveVersion: number | null;
  unpublished: boolean;
  /** What of the house has changed since it was published. */
  behind: Behind[];
  triggers: Trigger[];
  /** What starts the live version; none where nothing is live. */
  liveTriggers: Trigger[];
  /** Of a one-off send: since when all are in whom it was for (epoch ms), or null. */
  letInAt: number | null;
  /** Subject of its first email. */
  subject: string;
  emails: number;
  inside: number;
  sent: number;
  opened: number;
  clicked: number;
  money: Money;
  rhythm: RhythmMark[];
  createdAt: number;
}
/** Sequences whose live version was made before something of the house changed. */
export interface BehindAnswer {
  sequences: { id: string; name: string; behind: Behind[] }[];
}
/** What became of one of several that are published anew: a line of the answer, as it is done. */
export type Republished = { id: string; version: number } | { id: string; error: string };

export interface SequencesAnswer {
  sequences: SequenceRow[];
  today: { sent: number; toCome: number };
  /** What emails earned in the last 30 days. */
  earned: { orders: number; money: Money };
  looks: Looks;
}

/** What the engine cannot do by itself. */
export interface Looks {
  /** What keeps all mail back; null while it goes out. */
  mail: MailHold | null;
  /** For how long (ms) and why the web process cannot write its log; null while it does. */
  log: { forMs: number; why: string } | null;
  aside: AsideRow[];
  halted: HaltedSender[];
  stopped: StoppedSequence[];
  unmet: Unmet[];
}
/** A wait or an arm of a live version that nobody has met in weeks, though people came by. */
export interface Unmet {
  sequence: { id: string; name: string };
  step: string;
  /** The step in words; and what its arm asks, null where the step itself does. */
  words: string;
  arm: string | null;
  /** How many came by, and since when (epoch ms). */
  people: number;
  since: number;
}
/** The mail service says no before any message is offered: all mail waits. */
export interface MailHold {
  /** For how long, and until the next try, ms of the system clock: practice time says nothing about a server outside. */
  forMs: number;
  nextTryInMs: number;
  /** What it says. */
  answer: string;
  /** Emails that are due and wait, and since when the oldest does, on the business clock. */
  waiting: number;
  oldest: number | null;
}
/** What was too much of a sequence's day: so many of the emails that were sent on it. */
export interface Halt {
  why: 'bounced' | 'complained';
  count: number;
  sent: number;
}
/** A sequence that was paused by itself at `since` (epoch ms). */
export interface StoppedSequence {
  id: string;
  name: string;
  since: number;
  halt: Halt;
}
/** What could not be handled and is tried again by itself, for one and the same reason. Times are epoch ms. */
export interface AsideRow {
  kind: 'visit' | 'send' | 'sweep' | 'notice' | 'offer';
  sequence: { id: string; name: string } | null;
  reason: string;
  count: number;
  since: number;
  nextAt: number;
  /** One of the people concerned. */
  person: { id: string; email: string } | null;
}
/** A sender whose mail waits, since one email after the other was refused. */
export interface HaltedSender {
  email: string;
  /** Whether it waits for somebody to let it go on; else it was told "not now", and is tried again by itself. */
  stopped: boolean;
  since: number;
  /** What the receiving server said last. */
  answer: string;
  /** Emails that wait. */
  waiting: number;
}

export interface SequenceAnswer {
  id: string;
  status: SequenceStatus;
  liveVersion: number | null;
  revision: number;
  /** The draft is another than what is live, or nothing is. */
  unpublished: boolean;
  /** What of the house has changed since it was published. */
  behind: Behind[];
  /** What starts the live version; none where nothing is live. */
  liveTriggers: Trigger[];
  /** Of a one-off send: since when all are in whom it was for (epoch ms), or null. */
  letInAt: number | null;
  draft: Sequence;
  /** The latest edits, oldest first. */
  log: Saved[];
  /** Sign of the content that was sent as a test last, by email step. */
  tested: Record<string, string>;
  /** The one person whom its email is written to, and whether it has gone; null for a sequence of everybody's. */
  person: { id: string; name: string; sent: boolean } | null;
  /** Id of the template that is written in it; null for all that can go out. */
  template: string | null;
}
export interface SaveAnswer {
  revision: number;
  /** The draft is another than what is live, or nothing is. */
  unpublished: boolean;
  /** All that has been saved since the revision that the edits were made on, theirs among it. */
  edits: Saved[];
  /** Edits that collide with what others did, by their ids. */
  aside: { id: string; over: Saved | null; why: string }[];
  /** Ids of edits of which nothing was left to do. */
  moot: string[];
}
/** Somebody else who has the sequence open, at an email or at its plan (null). */
export interface Present {
  name: string;
  step: string | null;
}
export interface HereAnswer {
  others: Present[];
  /** The draft is another than what is live, or nothing is; null where nothing has been saved since. */
  unpublished: boolean | null;
  liveVersion: number | null;
  /** What has been saved since the revision that is known. */
  edits: Saved[];
}
export interface ChecksAnswer {
  findings: Finding[];
}
/** What would be published: what changed since the live version, and who is inside now. */
export interface ChangesAnswer {
  changes: Change[];
  inside: number;
  /** People who stand at a step that changed or is gone, by step id. */
  touched: Record<string, number>;
}

export interface VersionRow {
  number: number;
  at: number;
  by: string | null;
  inside: number;
  sent: number;
  emails: number;
  /** Against the version before. */
  changes: Change[];
}

export interface SentEmail {
  subject: string;
  html: string;
  text: string;
  at: number | null;
  to: string;
}

export interface SenderRow {
  id: string;
  name: string;
  email: string;
  isDefault: boolean;
  untouched: boolean;
  fields: Record<string, string>;
  /** The colleague who writes as this sender; null where it is nobody’s own. */
  user: { id: string; name: string } | null;
}
export interface FileRow {
  id: string;
  name: string;
  mime: string;
  size: number;
  width: number | null;
  height: number | null;
  downloads: number;
  folder: string;
  alt: string;
  keywords: string[];
}
export interface KeyRow {
  /** Origins of the pages that it is for; none for a key of servers. */
  origins: string[];
  id: string;
  name: string;
  hint: string;
  createdAt: number;
}
/** Where an offer is made. */
export interface OfferUse {
  sequence: string;
  name: string;
  step: string;
  email: string;
  live: boolean;
}
/** What came back of an offer: people, not codes. */
export interface OfferFunnel {
  issued: number;
  seen: number;
  used: number;
  expired: number;
  /** Minor units by currency. */
  money: Record<string, number>;
}
export interface OfferAnswer extends OfferRow {
  usedIn: OfferUse[];
  funnel: OfferFunnel;
  /** People it is expected to be given to, for each of the days to come. */
  forecast: number[];
  /** Beginning of the day on which its codes run out by that forecast, epoch ms; null where they last as far as it goes. */
  emptyOn: number | null;
}
/** Rows of an imported file that are no codes, by line. */
export interface CodesAnswer {
  added: number;
  refused: { line: number; why: string }[];
  /** How many were refused in all: the list is cut. */
  refusedCount: number;
}
/** What a shop is told about a code. */
export interface CodeAnswer {
  code: string;
  good: boolean;
  /** Why it is not good, in a word and in a sentence; null where it is. */
  reason: 'unknown' | 'mistyped' | 'not-given' | 'closed' | 'used' | 'email-needed' | null;
  message: string;
  offer: { id: string; name: string; words: string; discount: Offer['discount'] } | null;
  /** Address of the person it belongs to; null for a shared code. */
  for: string | null;
  /** ISO 8601; null where it does not close. */
  until: string | null;
}

/** An offer as drafts refer to it. */
export interface OfferRow {
  id: string;
  name: string;
  offer: Offer;
  /** Codes that are free now; null where the offer has no codes of its own for each person, or makes them as they are needed. */
  left: number | null;
  /** People inside of sequences that make it who have not been given it yet. */
  waiting: number;
}
export interface SharedRow {
  id: string;
  name: string;
  blocks: Block[];
  updatedAt: number;
  /** Sequences whose draft or live version holds it. */
  usedIn: {
    id: string;
    name: string;
    live: boolean;
    /** Its live version was made before the block was changed. */
    behind: boolean;
  }[];
}
export interface TemplateRow {
  id: string;
  name: string;
  /** What it is for, in the team's words. */
  about: string;
  email: Email;
  /** Its owner alone sees a private one. */
  mine: boolean;
  private: boolean;
  updatedAt: number;
  /** Emails that were begun from it. */
  usedIn: { sequence: string; step: string; name: string }[];
}
/** What people say about an email, and whether it has been approved as it is now. */
export interface ReviewAnswer {
  comments: { id: string; block: string | null; text: string; by: string; at: number; resolvedAt: number | null }[];
  approval: { status: 'asked' | 'approved'; by: string; at: number; sign: string } | null;
}
/** A state that a draft was in. */
export interface HistoryRow {
  revision: number;
  at: number;
  by: string;
  /** Name that somebody gave it, or null for one kept automatically. */
  name: string | null;
}

export interface SequenceName {
  id: string;
  name: string;
  status: SequenceStatus;
  /** Ids of the sequences that its draft starts. */
  starts: string[];
  /** Emails of its draft. */
  emails: number;
  live: boolean;
  triggers: Trigger[];
  /** When the emails of its draft can go out at the earliest, ms since its beginning. */
  moments: number[];
  /** Emails of its draft that have nothing to say without the event that starts it. */
  ofEvent: string[];
}
export interface ClockAnswer {
  practice: boolean;
  now: number;
  standing: boolean;
  moving: boolean;
  /** Address of the simulated shop, or null where there is none. */
  shop: string | null;
  /** The mail server that hands mail on to real people; null where it stays in the simulated mailbox. */
  mailTo: string | null;
  /** For how long no engine has been at work, ms; null while one is. */
  engineAway: number | null;
  /** One-offs that have been sent off and wait for their minutes of grace: until when (business clock, epoch ms). */
  leaving: { id: string; name: string; at: number }[];
}
export interface MailRow {
  id: number;
  to: string;
  from: string;
  subject: string;
  at: number;
}
/** The newest messages of the simulated mailbox, and whether there are more. */
export interface MailboxAnswer {
  messages: MailRow[];
  more: boolean;
}
export interface MailAnswer extends MailRow {
  html: string | null;
  text: string | null;
  source: string;
  unsubscribe: string | null;
}
export type { Program };

/** What stands behind a link: only addresses of our own are followed. */
export interface FollowedLink {
  address: string;
  state: 'opens' | 'broken' | 'personal' | 'elsewhere';
  words: string;
}

/** What a page says of itself, and its picture as a file of the library, where that was asked for and could be had. */
export interface DescribedPage extends PageDescription {
  file: string | null;
}
