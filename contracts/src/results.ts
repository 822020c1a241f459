import type { ArmFigures, StepCounts, TestMeasure } from '@ascenso/core';
import type { MoneyRules } from './money.ts';

/** Minor units by currency (ISO 4217): amounts of several are never added up. */
export type Money = Record<string, number>;

/** What came of one step. */
export interface StepNumbers extends StepCounts {
  orders: number;
  money: Money;
  /** Passages that did not get this email, by why: it was not for them, came too late, or was taken back. */
  kept: Record<string, number>;
  /** Passages that ended here, by why. */
  ended: Record<string, number>;
}

/** The numbers of a sequence: of the passages that began in a period, or of all. */
export interface NumbersAnswer {
  /** Passages that began, held-out ones apart. */
  joined: number;
  /** Passages under way now, whenever they began. */
  inside: number;
  /** Passages of the period that have ended. */
  finished: number;
  /** Of them, those that reached the goal. */
  goal: number;
  /** Passages held out to measure what the sequence adds. */
  heldOut: number;
  /** Those whom its rules kept out. */
  notEntered: number;
  orders: number;
  money: Money;
  steps: Record<string, StepNumbers>;
  /** Passages by branch arm taken, arm id to count. */
  arms: Record<string, number>;
  /** Passages standing at a step, by step id. */
  waiting: Record<string, number>;
  /** Emails that were sent and that the draft no longer has, by step id, with the name they went out under. */
  gone: { step: string; name: string; unseen: { openings: boolean; clicks: boolean } }[];
}

/** What orders there are, beside the rules for them. */
export interface MoneyAnswer {
  rules: MoneyRules;
  /** ISO 4217: of orders that name no currency. */
  currency: string;
  /** Events of the kind that is an order, and the orders that could be read of them. */
  events: number;
  orders: number;
  /** Orders that came by a code, by a click, and by no email. */
  by: { code: number; click: number; none: number };
  /** They are being counted anew. */
  recounting: boolean;
}

/** What went out and came back in a period, and what did in the one before it that is as long. */
export interface ResultFigures {
  orders: number;
  money: Money;
  /** Emails handed over. */
  mailed: number;
}

/** Stands for all letters that were written to one person. */
export const LETTERS = 'letters';

export interface SequenceResult extends ResultFigures {
  /** Null for orders that no email brought; LETTERS for letters. */
  id: string | null;
  name: string;
  before: ResultFigures;
}

/** How a sender's mail fares, over all of time. */
export interface SenderResult {
  email: string;
  sent: number;
  bounced: number;
  complained: number;
  opened: number;
  clicked: number;
}

/** What changed in who can be mailed on one day. */
export interface ListDay {
  day: number;
  came: number;
  unsubscribed: number;
  bounced: number;
  complained: number;
}

/** Across all sequences. Days are the workspace's calendar, days since 1970-01-01. */
export interface ResultsAnswer {
  currency: string;
  days: { from: number; to: number };
  sequences: SequenceResult[];
  /** Money of one day, in the workspace's currency and minor units, by sequence (null: by no email), and emails handed over. */
  byDay: { day: number; sequence: string | null; money: number; mailed: number }[];
  senders: SenderResult[];
  /** People who may be mailed now, and all. */
  people: { mailable: number; all: number };
  list: ListDay[];
  /** How many of those who may be mailed have so many points: from the first number on, up to the next. */
  points: { from: number; people: number }[];
}

/**
 * An email as somebody got it, to show its clicks on: each link leads to `#link-` and what it is called (`readLinkRef`). Null
 * where none was sent.
 */
export type ClickedEmail = { html: string; to: string } | null;

/** How mail arrives at the addresses of one receiving domain. */
export interface DomainResult {
  domain: string;
  sent: number;
  bounced: number;
  complained: number;
  opened: number;
  clicked: number;
}

/** What one offer brought on some days. */
export interface OfferResult {
  id: string;
  name: string;
  /** Given to somebody on these days; of those, how many have seen it, used it, and let it run out. */
  given: number;
  seen: number;
  used: number;
  ranOut: number;
  /** Orders of these days by one of its codes, shared ones too, that the shop has not taken back; and what they paid. */
  orders: number;
  money: Money;
}

/** What the people did who took one arm of a split. Money is of the workspace's currency, minor units. */
export interface ArmResult extends ArmFigures {
  arm: string;
}

/** What a rule has decided: for which arm, when (epoch ms), by what, and whether the gap was settled by then. */
export interface TestDecision {
  /** Empty where everybody goes on by lot. */
  arm: string;
  at: number;
  measure: TestMeasure;
  settled: boolean;
  /** Too few had taken part for one to be ahead. */
  few: boolean;
}

/** The splits of a sequence that people have come to: each a test of its arms. */
export interface TestsAnswer {
  currency: string;
  tests: {
    /** The split. */
    step: string;
    /** When the first and the latest took an arm, epoch ms. */
    since: number;
    latest: number;
    arms: ArmResult[];
    /** What its rule has decided, or null. */
    decided: TestDecision | null;
  }[];
}

/** What came of the passages of one month, or of the emails of one version. */
export interface BreakdownRow {
  /** "2026-03", or the number of a version. */
  key: string;
  /** Passages that began in the month; those whose last version this is. */
  joined: number;
  sent: number;
  opened: number;
  clicked: number;
  left: number;
  orders: number;
  money: Money;
  /** Email by email. */
  steps: Record<string, { sent: number; clicked: number }>;
}

/** The numbers of a sequence by month of joining and by version, the latest first. */
export interface BreakdownAnswer {
  months: BreakdownRow[];
  versions: (BreakdownRow & { publishedAt: number | null })[];
}

/** When emails were first opened and clicked, on the clocks of their readers. */
/** Emails that were opened and clicked, by what they were read on or with; null where it is not known. An email counts once for each. */
export interface ReadOnAnswer {
  devices: ReadOn[];
  programs: ReadOn[];
}
export interface ReadOn {
  name: string | null;
  opened: number;
  clicked: number;
}

export interface HoursAnswer {
  hours: {
    /** 1 is Monday, 7 is Sunday (ISO 8601). */
    weekday: number;
    hour: number;
    opened: number;
    clicked: number;
  }[];
}
