import type { z } from 'zod';
import type { Asking } from '../asking.ts';
import type { AnyCondition } from '../facts.ts';
import type { Names } from '../names.ts';
import type { Picker, SampleWorld } from './sample.ts';

/** What has to be known of a person before a question can be answered, beyond what always is. */
export interface Asked {
  /** Names of events that it looks for. */
  events: readonly string[];
  /** Steps of the same sequence that it asks about, or counts from. */
  steps: readonly string[];
  /** Segments and offers by id. */
  segments: readonly string[];
  offers: readonly string[];
  /** True where it has to be known which lists a person is on, what became of emails, or which link was clicked. */
  lists: boolean;
  emails: boolean;
  links: boolean;
  /** True where every email that they got has to be known, and which links of them were clicked. */
  mail: boolean;
  mailLinks: boolean;
  /** True where it has to be known since when they are on a list, and by what. */
  joined: boolean;
  /** True where it asks how many points they have: openings and clicks can earn some. */
  points: boolean;
  /** Sequences of which it has to be known how they stand to them, by id. */
  sequences: readonly string[];
}

/** What a question calls by its name or id: whoever renames or deletes one of these has to know of it. */
export interface Spoken {
  attributes: readonly string[];
  tags: readonly string[];
  lists: readonly string[];
  events: readonly string[];
}

/** What there is to ask about, by id. */
export interface Known {
  steps: ReadonlySet<string>;
  segments: ReadonlySet<string>;
  offers: ReadonlySet<string>;
  sequences: ReadonlySet<string>;
}

/**
 * A kind of question about a person. To add one: a file like this one's neighbours and a line in `index.ts`; the compiler
 * then asks for its SQL (`server/src/db/atoms`) and its row on the screen (`web/src/conditions`).
 */
export interface AtomKind<K extends string, S extends z.ZodType<{ kind: K }>> {
  schema: S;
  /** Whether it holds. What is not known counts as missing; nothing throws. `answer` asks the rule of a segment. */
  holds(atom: z.infer<S>, asking: Asking, answer: (rule: AnyCondition, asking: Asking) => boolean): boolean;
  /** Since when one that holds has held, epoch ms, or null where that is not known. */
  since(atom: z.infer<S>, asking: Asking): number | null;
  /** As a part of a sentence about somebody: "has the tag “teacher”". */
  words(atom: z.infer<S>, names: Names): string;
  /** Whether something is not chosen yet, or chosen and not there. */
  isOpen(atom: z.infer<S>, known: Known): boolean;
  asks(atom: z.infer<S>): Partial<Asked>;
  speaksOf(atom: z.infer<S>): Partial<Spoken>;
  /** True for what can only be asked about one passage through a sequence. */
  ofVisit(atom: z.infer<S>): boolean;
  /**
   * Instants (epoch ms) at which its answer can change though nothing happens; too many do no harm, one too few is a
   * change that nobody sees in time. `rule` tells those of a segment's rule.
   */
  turns(atom: z.infer<S>, asking: Asking, rule: (rule: AnyCondition) => number[]): number[];
  /** What of a made-up world it is about, if anything: without it, it is not asked. */
  about: keyof SampleWorld | null;
  /** Some question of this kind about a made-up world, for random tests: every way of asking has to come out of it. */
  sample(world: SampleWorld, pick: Picker): z.infer<S>;
}

/** What is so for most kinds. When an answer turns is no such thing: forgotten, it would be a change that nobody sees. */
export const plain = {
  since: () => null,
  isOpen: () => false,
  asks: () => ({}),
  speaksOf: () => ({}),
  ofVisit: () => false,
} as const;
