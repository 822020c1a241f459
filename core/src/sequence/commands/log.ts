import type { Saved } from './rebase.ts';
import type { Command } from './schemas.ts';

/** Something of one's own that can be taken back or brought back, and what others did since. */
export interface Undoable {
  /** Id of the edit that it takes back or brings back, where that is known. */
  edit?: string;
  commands: Command[];
  /** Others' edits that came after it: taking it back must not go over them. */
  since: Saved[];
}

export interface Stacks {
  /** The next one last. */
  undo: Undoable[];
  redo: Undoable[];
}

/** What one's own edit does to what can be undone and redone. */
export function withOwn(
  { undo, redo }: Stacks,
  { id, role, inverses }: Pick<Saved, 'role' | 'inverses' | 'id'>,
): Stacks {
  const back: Undoable = { ...(id === null ? {} : { edit: id }), commands: inverses, since: [] };
  if (role === 'undo') return { undo: undo.slice(0, -1), redo: [...redo, back] };
  return { undo: [...undo, back], redo: role === 'redo' ? redo.slice(0, -1) : [] };
}

/** What somebody else's edit does to it: nothing, but that it is to be minded. */
export function withOthers({ undo, redo }: Stacks, saved: Saved): Stacks {
  const mind = (u: Undoable): Undoable => ({ ...u, since: [...u.since, saved] });
  return { undo: undo.map(mind), redo: redo.map(mind) };
}

/** What can be undone and redone after these saves: one's own, whatever others did between. */
export const stacksOf = (log: readonly Saved[]): Stacks =>
  log.reduce<Stacks>((stacks, saved) => (saved.mine ? withOwn : withOthers)(stacks, saved), { undo: [], redo: [] });
