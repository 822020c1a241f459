import {
  applyCommands,
  armsOf,
  findStep,
  walk,
  type Command,
  type Place,
  type Sequence,
  type Step,
} from '@ascenso/core';
import { isFork } from './layout.ts';

/** Of chosen steps those that stand in no other chosen one, in the order of the plan. */
export const outermost = (doc: Sequence, ids: ReadonlySet<string>): Step[] =>
  walk(doc)
    .filter((v) => {
      for (let p = v.parent; p; p = p.parent) if (ids.has(p.step.id)) return false;
      return ids.has(v.step.id);
    })
    .map((v) => v.step);

/** The place behind a step; without one that is there, the end of the plan. */
export function placeBehind(doc: Sequence, step: string | null): Place {
  const found = step === null ? undefined : findStep(doc, step);
  return found ? { arm: found.place.arm, index: found.place.index + 1 } : { arm: null, index: doc.steps.length };
}

/** Whether a place lies inside one of the steps, where they cannot go themselves. */
export function liesInside(doc: Sequence, ids: ReadonlySet<string>, { arm }: Place): boolean {
  let around = walk(doc).find((v) => armsOf(v.step).some((a) => a.id === arm)) ?? null;
  while (around && !ids.has(around.step.id)) around = around.parent;
  return around !== null;
}

/** Where a step goes by one up or down: in its list; at an end, out of its arm, or into the neighbouring branch. Null at the end of all. */
export function placeBeside(doc: Sequence, id: string, by: -1 | 1): Place | null {
  const found = findStep(doc, id);
  if (!found) return null;
  const { place, siblings, parent } = found;
  const neighbour = siblings[place.index + by];
  if (neighbour && isFork(neighbour) && !isFork(found.step)) {
    const arm = armsOf(neighbour)[0];
    return arm ? { arm: arm.id, index: by === 1 ? 0 : arm.steps.length } : null;
  }
  if (neighbour) return { arm: place.arm, index: place.index + by };
  return parent ? { arm: parent.place.arm, index: parent.place.index + (by === 1 ? 1 : 0) } : null;
}

/** Where a step goes by one arm to the left or right. */
export function placeAcross(doc: Sequence, id: string, by: -1 | 1): Place | null {
  const found = findStep(doc, id);
  if (!found?.parent) return null;
  const arms = armsOf(found.parent.step);
  const arm = arms[arms.findIndex((a) => a.id === found.place.arm) + by];
  return arm ? { arm: arm.id, index: Math.min(found.place.index, arm.steps.length) } : null;
}

/**
 * The commands that move steps one after the other, each from where those before it have left the plan. Where the first of
 * them has nowhere to go, none moves: they would change places among themselves.
 */
export function movesOf(
  doc: Sequence,
  steps: readonly Step[],
  placeOf: (doc: Sequence, id: string, before: string | null) => Place | null,
): Command[] {
  const out: Command[] = [];
  let now = doc;
  let before: string | null = null;
  for (const { id } of steps) {
    const place = placeOf(now, id, before);
    if (!place && before === null) return [];
    if (place) {
      const move: Command = { type: 'step.move', step: id, place };
      now = applyCommands(now, [move]).doc;
      out.push(move);
    }
    before = id;
  }
  return out;
}

/** The commands that bring steps, in their order, to a place of the plan as it is before they are taken out. */
export function movesTo(doc: Sequence, ids: ReadonlySet<string>, at: Place): Command[] {
  const steps = outermost(doc, ids);
  const list =
    at.arm === null
      ? doc.steps
      : (walk(doc)
          .flatMap((v) => armsOf(v.step))
          .find((a) => a.id === at.arm)?.steps ?? []);
  // What stands before the place and stays is what they come after.
  const anchor = list.slice(0, at.index).findLast((s) => !ids.has(s.id))?.id ?? null;
  return movesOf(doc, steps, (now, id, before) => {
    const after = before ?? anchor;
    const to = after === null ? -1 : (findStep(now, after)?.place.index ?? -1);
    const own = findStep(now, id)?.place;
    // The place is reckoned without the step itself.
    return { arm: at.arm, index: own?.arm === at.arm && own.index <= to ? to : to + 1 };
  });
}
