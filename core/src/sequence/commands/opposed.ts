import type { Edit, Saved } from './rebase.ts';
import { kindOf } from './registry.ts';
import type { Command } from './schemas.ts';

const written = (command: Command): readonly string[] =>
  (kindOf(command).scope(command, command).writes ?? []).map(([key]) => key);

/** The commands of an edit, each with the one of another edit that sets the same to something else, or null. */
export function opposed(edit: Edit, over: Saved | null): { ours: Command; theirs: Command | null }[] {
  return edit.commands.map((ours) => {
    const keys = written(ours);
    const theirs = over?.commands.findLast((c) => written(c).some((key) => keys.includes(key)));
    return { ours, theirs: theirs ?? null };
  });
}
