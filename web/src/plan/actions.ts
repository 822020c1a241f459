import { toast } from 'sonner';
import {
  blankStep,
  copyStep,
  namedCopies,
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
import { outermost, placeBehind } from './moves.ts';
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
    // What stands inside one that goes is gone with it.
    const gone = outermost(doc, ids);
    if (dispatch(edit(gone.map((step): Command => ({ type: 'step.remove', step: step.id })))))
      toast(`Deleted ${gone.length} steps.`, { action: { label: 'Undo', onClick: () => dispatch(undo()) } });
  };

/** A copy right after the step; answers the copy's id. */
export const duplicateStep =
  (id: string): Thunk<string | null> =>
  (dispatch, getState) => {
    const doc = docOf(getState());
    const found = doc && findStep(doc, id);
    if (!found) return null;
    const [step] = namedCopies([found.step], doc, newId);
    if (!step) return null;
    dispatch(edit([{ type: 'step.insert', place: placeBehind(doc, id), step }]));
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

/** The step before or after one in reading order. */
export function neighbour(doc: Sequence, id: string | null, by: -1 | 1): string | null {
  const all = walk(doc).map((v) => v.step.id);
  if (id === null) return all[0] ?? null;
  return all[all.indexOf(id) + by] ?? id;
}
