import { z } from 'zod';
import { importPlanSchema, type Guess, type ImportPlan } from '@ascenso/core';

// Files of people on their way in.

/** A file of people may have so many bytes. */
export const MAX_PEOPLE_FILE = 400_000_000;

export const importRequest = importPlanSchema;
/** Sequences that its people start; no others do. */
export const importRunRequest = z.strictObject({ starts: z.array(z.uuid()).max(50) });
export const importName = z.string().trim().min(1).max(200);

export interface ImportFile {
  bytes: number;
  encoding: 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';
  separator: string;
  /** The first rows as they stand, the heading among them. */
  rows: string[][];
}

/**
 * uploading, uploaded; checking, checked; running, done; undoing, undone. Cancelled and failed are ends, too. Whatever is
 * under way (checking, running, undoing) is taken up again by any engine.
 */
export type ImportState =
  | 'uploading'
  | 'uploaded'
  | 'checking'
  | 'checked'
  | 'running'
  | 'done'
  | 'undoing'
  | 'undone'
  | 'cancelled'
  | 'failed';

export interface ImportCounts {
  /** Rows in all, but for the heading. */
  rows: number;
  /** People who are new. */
  fresh: number;
  /** People who are known, and of whom something changes. */
  changed: number;
  /** People who are known, and of whom nothing changes. */
  same: number;
  /** Rows that cannot be read. */
  faults: number;
  /** Of the people that are read: to whom no mail may go. */
  suppressed: number;
  /** How many would start each live sequence, by its id. */
  starts: Record<string, number>;
  /** How many have started one. */
  started: number;
  /** Numbers that the other way of writing them would read as another number, and the first of them as it stands. */
  either: number;
  eitherAs: string | null;
  /** After an undo: how many stayed, because something has happened to them since. */
  kept: number;
}

export interface ImportFault {
  line: number;
  why: string;
}

export interface ImportRow {
  id: string;
  name: string;
  state: ImportState;
  counts: ImportCounts | null;
  /** Rows that the work under way has been through, of so many. */
  done: number;
  total: number;
  problem: string | null;
  by: string;
  createdAt: number;
  endedAt: number | null;
  /** Until when it can be undone (business clock, epoch ms), or null where it cannot. */
  undoUntil: number | null;
}

export interface ImportAnswer extends ImportRow {
  file: ImportFile | null;
  plan: ImportPlan | null;
  /** What the columns probably are. */
  guess: Guess | null;
  /** The first rows that cannot be read. */
  faults: ImportFault[];
}
