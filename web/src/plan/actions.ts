import { toast } from 'sonner';
import {
  armsOf,
  belongings,
  blankStep,
  copyStep,
  copySteps,
  findStep,
  innerWords,
  stepWords,
  walk,
  plainNames,
  type Command,
  type SplitRule,
  type Place,
  type Sequence,
  type Step,
  type StepKind,
} from '@ascenso/core';
import { edit, undo } from '../drafts/draft.ts';
import type { AppDispatch, RootState } from '../app/store.ts';
import { isFork } from './layout.ts';
import { newId } from '../ui/names.ts';

type Thunk<T> = (dispatch: AppDispatch, getState: () => RootState) => T;
const docOf = (state: RootState): Sequence | null => state.draft.doc;

/** Puts a new step at a place and answers its id. */
export const insertStep =
  (kind: StepKind, place: Place): Thunk<string> =>
  (dispatch) => {
    const step = blankStep(kind, newId);
    dispatch(edit([{ type: 'step.insert', place, step }]));
    return step.id;
  };

export const removeStep =
  (id: string): Thunk<void> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const found = doc && findStep(doc, id);
    if (!found) return;
    if (dispatch(edit([{ type: 'step.remove', step: id }])))
      toast(`Deleted “${stepWords(found.step, plainNames)}”${innerWords(found.step)}.`, {
        action: { label: 'Undo', onClick: () => dispatch(undo()) },
      });
  };

/** Deletes several steps in one edit, which one undo takes back. */
export const removeSteps =
  (ids: ReadonlySet<string>): Thunk<void> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    if (!doc) return;
    const found = walk(doc).filter(({ step }) => ids.has(step.id));
    // What stands inside one that goes is gone with it.
    const gone = found.filter((v) => {
      for (let p = v.parent; p; p = p.parent) if (ids.has(p.step.id)) return false;
      return true;
    });
    if (dispatch(edit(gone.map(({ step }): Command => ({ type: 'step.remove', step: step.id })))))
      toast(`Deleted ${gone.length} steps.`, { action: { label: 'Undo', onClick: () => dispatch(undo()) } });
  };

/** A copy right after the step; answers the copy's id. */
export const duplicateStep =
  (id: string): Thunk<string | null> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const found = doc && findStep(doc, id);
    if (!found) return null;
    const step = copyStep(found.step, newId);
    dispatch(edit([{ type: 'step.insert', place: { arm: found.place.arm, index: found.place.index + 1 }, step }]));
    return step.id;
  };

/**
 * Makes a test of an email: a split with the email in one arm and a copy of it in the other, to be changed. Answers the
 * copy's id.
 */
export const testEmail =
  (id: string, rule?: SplitRule): Thunk<string | null> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const found = doc && findStep(doc, id);
    if (!found || found.step.kind !== 'email') return null;
    const copy = copyStep(found.step, newId);
    const [mine, other] = [newId(), newId()];
    const split: Step = {
      id: newId(),
      on: true,
      note: '',
      kind: 'split',
      name: `Test of “${found.step.name}”`.slice(0, 120),
      arms: [
        { id: mine, weight: 50, steps: [] },
        { id: other, weight: 50, steps: [{ ...copy, name: `${found.step.name}, another way`.slice(0, 120) } as Step] },
      ],
      ...(rule ? { rule } : {}),
    };
    const made = dispatch(
      edit([
        { type: 'step.insert', place: found.place, step: split },
        { type: 'step.move', step: id, place: { arm: mine, index: 0 } },
      ]),
    );
    return made ? copy.id : null;
  };

/** Ends a test: this email of it stays, where the split stood, and the rest of the split goes. */
export const keepOfTest =
  (id: string): Thunk<void> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const split = doc && findStep(doc, id)?.parent;
    if (!split) return;
    const made = dispatch(
      edit([
        { type: 'step.move', step: id, place: split.place },
        { type: 'step.remove', step: split.step.id },
      ]),
    );
    if (made) toast('The other version is gone.', { action: { label: 'Undo', onClick: () => dispatch(undo()) } });
  };

/** What was copied last, and the names of the emails that it asks about: it outlives going to another sequence, and a reload. */
interface Hand {
  steps: Step[];
  asked: string[];
}
const HAND = 'plan-hand';
const inHand = (): Hand | null => JSON.parse(sessionStorage.getItem(HAND) ?? 'null') as Hand | null;

/** Names of the emails that steps ask about and that are not among them. */
const askedNames = (steps: readonly Step[], doc: Sequence): string[] =>
  belongings(steps).asked.map((id) => {
    const step = findStep(doc, id)?.step;
    return step ? stepWords(step, plainNames) : 'an email that is gone';
  });

/** Takes steps into the hand, in the order of the plan. */
export const copyToHand =
  (ids: readonly string[]): Thunk<void> =>
  (_dispatch, getState) => {
    const doc = docOf(getState());
    if (!doc) return;
    const inside = (step: Step) =>
      walk({ steps: [step] })
        .slice(1)
        .map((v) => v.step.id);
    const found = walk(doc)
      .map((v) => v.step)
      .filter((s) => ids.includes(s.id));
    // What stands in an arm of one that is copied comes with it.
    const within = new Set(found.flatMap(inside));
    const steps = found.filter((s) => !within.has(s.id));
    const [first] = steps;
    if (!first) return;
    sessionStorage.setItem(HAND, JSON.stringify({ steps, asked: askedNames(steps, doc) } satisfies Hand));
    toast(
      `Copied ${steps.length === 1 ? `“${stepWords(first, plainNames)}”` : `${steps.length} steps`}. Ctrl V puts ${steps.length === 1 ? 'it' : 'them'} after the selected step.`,
    );
  };

/** An email is called by a name of its own: one that is taken gets a mark behind it. */
function ownNames(steps: readonly Step[], taken: Set<string>): void {
  for (const { step } of walk({ steps: [...steps] })) {
    if (step.kind !== 'email' || step.name === '') continue;
    const first = step.name;
    for (let n = 1; taken.has(step.name); n++) step.name = `${first.slice(0, 105)} (copy${n === 1 ? '' : ` ${n}`})`;
    taken.add(step.name);
  }
}

/** What copied steps still have of the place they came from, in words; '' for nothing. */
function broughtAlong({ steps, asked }: Hand, offer: (id: string) => string): string {
  const { tags, offers } = belongings(steps);
  return [
    ...tags.map((t) => `the tag “${t}”`),
    ...offers.map((o) => `the offer “${offer(o)}”`),
    ...asked.map((name) => `the question about “${name}”`),
  ].join(', ');
}

/** Puts what was copied last at a place; answers the id of the first copy, or null where nothing was. */
export const pasteAt =
  (place: Place, offer: (id: string) => string): Thunk<string | null> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const copied = inHand();
    if (!copied || !doc) return null;
    const steps = copySteps(copied.steps, newId);
    ownNames(steps, new Set(walk(doc).flatMap(({ step }) => (step.kind === 'email' ? [step.name] : []))));
    const commands = steps.map((step, i): Command => ({
      type: 'step.insert',
      place: { arm: place.arm, index: place.index + i },
      step,
    }));
    if (!dispatch(edit(commands))) return null;
    const along = broughtAlong(copied, offer);
    if (along) toast(`They come with ${along}: look whether it is meant here too.`);
    return steps[0]?.id ?? null;
  };

/** Moves a step up or down in its list; at an end, out of its arm, or into the neighbouring branch. */
export const moveStep =
  (id: string, by: -1 | 1): Thunk<void> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const found = doc && findStep(doc, id);
    if (!found) return;
    const { place, siblings, parent } = found;
    const neighbour = siblings[place.index + by];
    let target: Place;
    if (neighbour && isFork(neighbour) && !isFork(found.step)) {
      const arm = armsOf(neighbour)[0];
      if (!arm) return;
      target = { arm: arm.id, index: by === 1 ? 0 : arm.steps.length };
    } else if (neighbour) target = { arm: place.arm, index: place.index + by };
    else if (parent) target = { arm: parent.place.arm, index: parent.place.index + (by === 1 ? 1 : 0) };
    else return;
    dispatch(edit([{ type: 'step.move', step: id, place: target }]));
  };

/** Moves a step from one arm of a branch to the next. */
export const moveAcross =
  (id: string, by: -1 | 1): Thunk<void> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const found = doc && findStep(doc, id);
    if (!found?.parent) return;
    const arms = armsOf(found.parent.step);
    const arm = arms[arms.findIndex((a) => a.id === found.place.arm) + by];
    if (arm)
      dispatch(
        edit([
          { type: 'step.move', step: id, place: { arm: arm.id, index: Math.min(found.place.index, arm.steps.length) } },
        ]),
      );
  };

/** The step before or after one in reading order. */
export function neighbour(doc: Sequence, id: string | null, by: -1 | 1): string | null {
  const all = walk(doc).map((v) => v.step.id);
  if (id === null) return all[0] ?? null;
  return all[all.indexOf(id) + by] ?? id;
}
