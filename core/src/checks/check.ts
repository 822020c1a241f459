import type { Block, HouseStyle, ItemMapping } from '../email/index.ts';
import type { Written } from '../words/index.ts';
import type { Offer } from '../offer/index.ts';
import { emailSteps, type Command, type EmailStep, type Sequence, type Trigger } from '../sequence/index.ts';

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
  /** An edit that mends it, and what the button for it says. */
  repair?: { label: string; commands: Command[] };
  /** The word that a dictionary does not know. */
  word?: string;
}

/** A hosted file as far as checks look at it: sizes in bytes and px. */
export interface KnownFile {
  id: string;
  mime: string;
  size: number;
  width: number | null;
  height: number | null;
  alt?: string;
}

/** What checks know beside the draft itself. */
export interface CheckContext {
  style: HouseStyle;
  /** Fields that exist, by their first word: attribute keys, payload fields of the triggers' events, sender fields. */
  fields: { subscriber: readonly string[]; event: readonly string[]; sender: readonly string[] };
  /** Payload fields that every trigger brings; the others need a fallback. */
  always: readonly string[];
  /** Fields of the items of each list, by the list's path: "event.lines". */
  items: Readonly<Record<string, readonly string[]>>;
  /** Which fields of the items of each list to show, by name and value, where that can be guessed. */
  mappings?: Readonly<Record<string, ItemMapping>>;
  /** Fields of what starts it that hold an address of a page: "event.cart". */
  addresses?: readonly string[];
  senders: readonly { id: string; isDefault: boolean; untouched: boolean; fields: Readonly<Record<string, string>> }[];
  files: readonly KnownFile[];
  /** Blocks of the shared ones, by id. */
  shared: Readonly<Record<string, readonly Block[]>>;
  /** Ids of the lists there are. */
  lists: readonly string[];
  /** How many people have confirmed each of them, where it is known. */
  confirmed?: Readonly<Record<string, number>>;
  segments: readonly string[];
  /** The sequence itself, where it has been saved, and the others with those that they start. */
  self: string | null;
  sequences: readonly {
    id: string;
    name: string;
    starts: readonly string[];
    status: 'draft' | 'live' | 'paused' | 'archived';
    live?: boolean;
    triggers?: readonly Trigger[];
    /** When its emails can go out at the earliest, ms since its beginning. */
    moments?: readonly number[];
    /** Names of its emails that have nothing to say without the event that starts it. */
    ofEvent?: readonly string[];
  }[];
  /**
   * Offers that there are; `left` codes are free (null where they do not run out), and `waiting` people inside are on the way
   * to one (0 where they do not run out).
   */
  offers: readonly { id: string; name: string; offer: Offer; left: number | null; waiting: number }[];
  /** The present, epoch ms, where it is known. */
  now?: number;
  /** Bytes of the compiled HTML by step id, where known. */
  bytes: Readonly<Record<string, number>>;
  /** Sign of the content that was sent as a test last, by step id (`contentSign`). Absent where it is not known. */
  tested?: Readonly<Record<string, string>>;
  /** What a dictionary says of a word of a language, or null where it is spelt right. Only where dictionaries are at hand. */
  spell?: (word: string, language: Written) => Misspelling | null;
}

/** A word that is not in the dictionary of its email's language. */
export interface Misspelling {
  /** What it could be instead, the likeliest first. */
  better: readonly string[];
  /** The other language that it is a word of; null where it is of none of ours, absent while that is not known yet. */
  of?: Written | null;
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

/** What a check of one email tells: a place in it, what is wrong, what to do. */
export type EmailFinding = Omit<Finding, 'check' | 'level' | 'place'> & {
  level?: Finding['level'];
  block?: string | null;
  part?: string | null;
};

/** A check that looks at one email after the other, those that are switched off left out. */
export function emailCheck(
  id: string,
  level: Finding['level'],
  look: (step: EmailStep, context: CheckContext, sequence: Sequence) => EmailFinding[],
): Check {
  return {
    id,
    run: (sequence, context) =>
      liveEmails(sequence).flatMap((step) =>
        look(step, context, sequence).map(({ block = null, part = null, level: own, ...rest }): Finding => ({
          check: id,
          level: own ?? level,
          place: at(step.id, block, part),
          ...rest,
        })),
      ),
  };
}

/** Email steps that are switched on: the ones that go out. */
export const liveEmails = (sequence: Sequence): EmailStep[] => emailSteps(sequence).filter((s) => s.on);
