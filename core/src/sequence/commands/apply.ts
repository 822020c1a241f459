import type { Sequence } from '../schema.ts';
import { withInner } from '../tree.ts';
import { structuredCloneJson } from './finding.ts';
import { kindOf } from './registry.ts';
import type { Command } from './schemas.ts';

/** A draft saved before a field existed gets what it then meant. */
export function completed(doc: Sequence): Sequence {
  doc.filter ??= null;
  doc.about ??= '';
  doc.exit ??= null;
  for (const step of doc.steps.flatMap(withInner)) {
    if (step.kind === 'email') {
      step.forWhom ??= null;
      step.thenPoints ??= 0;
    }
    if (step.kind === 'wait') step.at ??= null;
  }
  return doc;
}

/** Applies commands in order to a document, which stays as it was. Throws CommandError where one does not fit. The inverses are in the order in which they take the changes back. */
export function applyCommands(doc: Sequence, commands: readonly Command[]): { doc: Sequence; inverses: Command[] } {
  const copy = completed(structuredCloneJson(doc));
  const inverses = commands.map((c) => structuredCloneJson(kindOf(c).change(copy, structuredCloneJson(c)))).reverse();
  return { doc: copy, inverses };
}
