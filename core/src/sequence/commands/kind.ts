import type { Sequence } from '../schema.ts';
import type { Command, CommandOf, CommandType } from './schemas.ts';

/** A place in a list that commands put things into or take them out of. */
export interface Slot {
  list: string;
  index: number;
}

/** What an edit has to do with a document, by keys of what stands in it. */
export interface Scope {
  /** What it sets, and to what: two edits that set the same to different values collide. */
  writes?: readonly (readonly [key: string, value: unknown])[];
  /** What it works inside of: taking that away would lose it. */
  works?: readonly string[];
  /** What it takes away, with everything inside. */
  removes?: readonly string[];
  /** What becomes of lists: a thing more (1) or less (-1) at a place. */
  splices?: readonly { at: Slot; by: 1 | -1 }[];
}

/** All there is to know of one kind of command. */
export interface CommandKind<T extends CommandType> {
  /** Changes a document that is the caller's own, and answers the command that takes it back. Throws CommandError. */
  change: (doc: Sequence, command: CommandOf<T>) => Command;
  /** What it touches; `inverse` is what `change` answered. */
  scope: (command: CommandOf<T>, inverse: Command) => Scope;
  /** The place it names in a list, and the same command with another index there: what others put before it moves it on. */
  place?: { of: (command: CommandOf<T>) => Slot; put: (command: CommandOf<T>, index: number) => CommandOf<T> };
}
