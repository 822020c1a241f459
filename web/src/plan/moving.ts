import { findStep, type Place } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import type { AppDispatch, RootState } from '../app/store.ts';
import { liesInside, movesOf, movesTo, outermost, placeAcross, placeBeside } from './moves.ts';

type Thunk<T> = (dispatch: AppDispatch, getState: () => RootState) => T;

const moving =
  (ids: ReadonlySet<string>, by: -1 | 1, placeOf: typeof placeBeside): Thunk<void> =>
  (dispatch, getState) => {
    const { doc } = getState().draft;
    if (!doc) return;
    const steps = outermost(doc, ids);
    const commands = movesOf(doc, by === 1 ? steps.toReversed() : steps, (now, id) => placeOf(now, id, by));
    if (commands.length > 0) dispatch(edit(commands));
  };

/** Moves steps up or down by one, together. */
export const moveSteps = (ids: ReadonlySet<string>, by: -1 | 1) => moving(ids, by, placeBeside);

/** Moves steps from one arm of a branch to the next, in their order. */
export const moveAcross =
  (ids: ReadonlySet<string>, by: -1 | 1): Thunk<void> =>
  (dispatch, getState) => {
    const { doc } = getState().draft;
    if (!doc) return;
    const commands = movesOf(doc, outermost(doc, ids), (now, id, before) => {
      const place = placeAcross(now, id, by);
      const last = before === null ? undefined : findStep(now, before)?.place;
      return place && last?.arm === place.arm ? { arm: place.arm, index: last.index + 1 } : place;
    });
    if (commands.length > 0) dispatch(edit(commands));
  };

/** Moves steps to a place of the plan. Answers whether they fit there. */
export const moveTo =
  (ids: ReadonlySet<string>, at: Place): Thunk<boolean> =>
  (dispatch, getState) => {
    const { doc } = getState().draft;
    return doc !== null && !liesInside(doc, ids, at) && dispatch(edit(movesTo(doc, ids, at)));
  };
