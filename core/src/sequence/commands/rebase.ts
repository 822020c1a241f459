import { inOrder } from '../../email/index.ts';
import type { Sequence } from '../schema.ts';
import { applyCommands } from './apply.ts';
import { CommandError, keysOfStep } from './finding.ts';
import type { Scope, Slot } from './kind.ts';
import { kindOf } from './registry.ts';
import type { Command } from './schemas.ts';

/** An edit on its way: one thing that somebody did, taken or left as a whole. */
export interface Edit {
  /** Made where the edit is made: sent again, it counts once. */
  id: string;
  commands: Command[];
  /** Set on an edit that takes back, or brings back, another. */
  role: 'edit' | 'undo' | 'redo';
}

/** An edit that is in the document, as the log keeps it. */
export interface Saved extends Omit<Edit, 'id'> {
  /** Null for one that was sent without. */
  id: string | null;
  revision: number;
  inverses: Command[];
  /** Name of whoever made it, and whether that is whoever asks. */
  by: string;
  mine: boolean;
}

/** An edit that does not go into the document as it is by now: nothing of it is lost, and somebody decides. */
export interface SetAside {
  edit: Edit;
  /** What it collides with, null where its place is simply gone. */
  over: Saved | null;
  /** Why, in a sentence; and the field of a command that does not fit. */
  why: string;
  field?: string;
}

export interface Rebased {
  doc: Sequence;
  /** What went in, as it went in. */
  applied: (Edit & { inverses: Command[] })[];
  aside: SetAside[];
  /** Ids of edits of which nothing was left to do: others have taken the same away. */
  moot: string[];
}

const same = (a: unknown, b: unknown) => JSON.stringify(inOrder(a)) === JSON.stringify(inOrder(b));

/** Scopes of commands in their order; the inverses are in the opposite order, as `applyCommands` answers them. */
const scopesOf = (commands: readonly Command[], inverses: readonly Command[]): Scope[] =>
  commands.map((c, i) => kindOf(c).scope(c, inverses[commands.length - 1 - i] ?? c));

/** Whether two edits that were made without knowing of each other cannot both be what was meant. */
function collide(ours: readonly Scope[], theirs: readonly Scope[]): boolean {
  const written = new Map(theirs.flatMap((t) => t.writes ?? []));
  const works = new Set<string>();
  for (const { works: inside = [], removes = [] } of theirs) {
    for (const key of inside) works.add(key);
    // What they have taken away themselves is no work of theirs any more.
    for (const key of removes) works.delete(key);
  }
  return ours.some(
    ({ writes = [], removes = [] }) =>
      writes.some(([key, value]) => written.has(key) && !same(written.get(key), value)) ||
      removes.some((key) => works.has(key)),
  );
}

/** A place in a list after others have put things into it and taken things out. Theirs stands before ours at one place. */
function moved({ list, index }: Slot, theirs: readonly Scope[]): number {
  let at = index;
  for (const { at: slot, by } of theirs.flatMap((t) => t.splices ?? []))
    if (slot.list === list && (by === 1 ? slot.index <= at : slot.index < at)) at += by;
  return at;
}

/** A command over what others did: the same thing, at the place where that is by now. */
function mapOver(command: Command, theirs: readonly Scope[]): Command {
  const { place } = kindOf(command);
  return place ? place.put(command, moved(place.of(command), theirs)) : command;
}

/** Whether a command takes away what others have taken away already. */
const isMoot = (command: Command, gone: ReadonlySet<string>, doc: Sequence): boolean => {
  const takes = kindOf(command).scope(command, command).removes ?? [];
  return takes.some((key) => gone.has(key)) && !doc.steps.flatMap(keysOfStep).some((key) => takes.includes(key));
};

/** Keys of all that an edit works in or takes away. */
const placesOf = (scopes: readonly Scope[]): string[] =>
  scopes.flatMap((s) => [...(s.works ?? []), ...(s.removes ?? [])]);

/**
 * Takes edits that were made on an older document over what others saved since, onto the document as it is: what does
 * not touch goes in, what collides is set aside with what it collides with. (As prosemirror-collab does it, with two
 * differences: whoever rebases here says what collides, and an edit is one whole.)
 */
export function rebase(edits: readonly Edit[], since: readonly Saved[], now: Sequence): Rebased {
  const theirs = since.map((saved) => ({ saved, scopes: scopesOf(saved.commands, saved.inverses) }));
  const all = theirs.flatMap((t) => t.scopes);
  const gone = new Set(all.flatMap((s) => s.removes ?? []));
  const out: Rebased = { doc: now, applied: [], aside: [], moot: [] };
  const setAside = (edit: Edit, over: Saved | null, why: string, field?: string) =>
    out.aside.push({ edit, over, why, ...(field === undefined ? {} : { field }) });
  for (const edit of edits) {
    const commands = edit.commands.filter((c) => !isMoot(c, gone, out.doc)).map((c) => mapOver(c, all));
    if (commands.length === 0) {
      out.moot.push(edit.id);
      continue;
    }
    try {
      const { doc, inverses } = applyCommands(out.doc, commands);
      const ours = scopesOf(commands, inverses);
      const other = theirs.findLast((t) => collide(ours, t.scopes));
      if (other) setAside(edit, other.saved, `${other.saved.by} changed the same place.`);
      else {
        out.doc = doc;
        out.applied.push({ ...edit, commands, inverses });
      }
    } catch (error) {
      if (!(error instanceof CommandError)) throw error;
      const places = new Set(placesOf(scopesOf(edit.commands, [])));
      const taker = theirs.findLast((t) => t.scopes.some((s) => s.removes?.some((key) => places.has(key))));
      if (taker) setAside(edit, taker.saved, `${taker.saved.by} took its place away.`);
      else setAside(edit, null, error.message, error.field);
    }
  }
  return out;
}
