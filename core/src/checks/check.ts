import type { HouseStyle } from '../email/index.ts';
import type { Sequence } from '../sequence/index.ts';

/** Where a finding points: a step of the plan, and a block of its email if it is about one. */
export interface FindingPlace {
  step: string | null;
  block: string | null;
  /** Part of the envelope or block: "subject", "label". */
  part: string | null;
}

export interface Finding {
  check: string;
  /** Errors refuse publishing, warnings are told. */
  level: 'error' | 'warning';
  place: FindingPlace;
  /** What is wrong, in a sentence. */
  message: string;
  /** What to do about it. */
  fix: string;
}

/** What checks know beside the draft itself. */
export interface CheckContext {
  style: HouseStyle;
  /** Fields that exist, by their first word: attribute keys, payload fields of the triggers' events, sender fields. */
  fields: { subscriber: readonly string[]; event: readonly string[]; sender: readonly string[] };
  senders: readonly { id: string; isDefault: boolean; untouched: boolean }[];
  files: readonly string[];
  /** Ids of the lists there are. */
  lists: readonly string[];
  segments: readonly string[];
  /** The sequence itself, where it has been saved, and the others with those that they start. */
  self: string | null;
  sequences: readonly { id: string; name: string; starts: readonly string[] }[];
  /** Bytes of the compiled HTML by step id, where known. */
  bytes: Readonly<Record<string, number>>;
}

/** One check, in a file of its own. */
export interface Check {
  id: string;
  run: (sequence: Sequence, context: CheckContext) => Finding[];
}

export const at = (step: string | null, block: string | null = null, part: string | null = null): FindingPlace => ({
  step,
  block,
  part,
});
