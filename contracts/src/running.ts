import type { Halt } from './answers.ts';

// A sequence on its way: whom it goes to, what is overdue, what is expected.

/** Whom a send to everybody is for, as of now. Times are epoch ms. */
export interface Whom {
  /** How many get it; of them, how many only when the pause that they asked for is over. */
  gets: number;
  pausing: number;
  /** Why others who fit do not. */
  left: { unsubscribed: number; bounced: number; complained: number; offList: number; had: number };
  /** How many of those who get it have the hour behind them already: they get it straight away. */
  late: number;
  /** When the first and the last of them get it; null where no day is chosen. */
  from: number | null;
  to: number | null;
  /** Segments that one-off sends were for of late, the latest first. */
  recent: string[];
}

/** What resuming a paused sequence would do now. Times are epoch ms. */
export interface ResumeCounts {
  pausedAt: number | null;
  /** Why it was paused by itself, if it was. */
  halted: Halt | null;
  inside: number;
  /** People whose next moment has passed. */
  overdue: number;
  /** Of them, those whose moment is longer ago than asked. */
  tooLate: number;
  /** Emails in the queue, and those of them that are too late. */
  queued: number;
  queuedLate: number;
  /** What is overdue, email by email, the oldest first. */
  emails: OverdueEmail[];
}
/** An email that is overdue: in the queue, or next for somebody whose moment has passed. */
export interface OverdueEmail {
  /** Null where it depends on what is known of each person which email is next. */
  step: string | null;
  name: string;
  people: number;
  /** Of them, those whose moment is longer ago than asked. */
  late: number;
  /** When the first of them should have gone out, epoch ms. */
  oldest: number;
}
/** Emails by day over all live sequences, from today on: to those inside now, and to those who are still to begin: expected joiners (no whole numbers), and whom a one-off send is for. */
export interface ForecastAnswer {
  /** Beginning of each day in the workspace's zone, epoch ms. */
  days: number[];
  sequences: {
    id: string;
    name: string;
    oneOff: boolean;
    joinersPerDay: number;
    inside: number[];
    joiners: number[];
  }[];
  /** One in so many of the people inside was led on and stands for the others; 1 where each of them was. */
  oneIn: number;
  /** People inside, or meant by a one-off send, who get two marketing emails or more on a day. */
  twice: number[];
  /** People that an offer is expected to be given to, by day, by its id. */
  offers: Record<string, number[]>;
}
