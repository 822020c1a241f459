import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { SaveAnswer, SequenceAnswer } from '@ascenso/contracts';
import { applyCommands, CommandError, undoStacks, type Command, type LogEntry, type Sequence } from '@ascenso/core';
import { toast } from 'sonner';
import { api, call } from './api.ts';
import { flushTexts } from './typing.ts';
import type { AppDispatch, RootState } from './store.ts';

/** The draft on the screen: ahead of the server by the edits that are still on their way. */
export interface DraftState {
  id: string | null;
  doc: Sequence | null;
  revision: number;
  undo: Command[][];
  redo: Command[][];
  unsaved: number;
  failed: boolean;
}

const initial: DraftState = { id: null, doc: null, revision: 0, undo: [], redo: [], unsaved: 0, failed: false };

interface Edited {
  doc: Sequence;
  inverses: Command[];
  role: LogEntry['role'];
}

const slice = createSlice({
  name: 'draft',
  initialState: initial,
  reducers: {
    opened: (_state, { payload }: PayloadAction<SequenceAnswer>): DraftState => ({
      ...initial,
      id: payload.id,
      doc: payload.draft,
      revision: payload.revision,
      ...undoStacks(payload.log),
    }),
    edited: (state, { payload: { doc, inverses, role } }: PayloadAction<Edited>) => {
      state.doc = doc;
      state.unsaved++;
      if (role === 'undo') {
        state.undo.pop();
        state.redo.push(inverses);
      } else {
        if (role === 'redo') state.redo.pop();
        else state.redo = [];
        state.undo.push(inverses);
      }
    },
    saved: (state, { payload }: PayloadAction<SaveAnswer>) => {
      state.revision = payload.revision;
      state.unsaved--;
      state.failed = false;
      // With nothing more on its way, the server's document is the truth: it holds what others did meanwhile.
      if (state.unsaved === 0) state.doc = payload.draft;
    },
    failed: (state) => {
      state.failed = true;
    },
  },
});

export const draftReducer = slice.reducer;
export const { opened } = slice.actions;

let queue: Promise<void> = Promise.resolve();
/** Counts refusals: edits that were made on top of a refused one go with it. */
let era = 0;

/** Applies edits at once and saves them in order. A refused edit is taken back by reading the draft anew. */
export const edit =
  (commands: Command[], role: LogEntry['role'] = 'edit') =>
  (dispatch: AppDispatch, getState: () => RootState): boolean => {
    const { doc, id } = getState().draft;
    if (!doc || !id) return false;
    try {
      dispatch(slice.actions.edited({ ...applyCommands(doc, commands), role }));
    } catch (error) {
      toast.error(error instanceof CommandError ? error.message : 'That edit does not fit the draft any more.');
      return false;
    }
    const made = era;
    queue = queue.then(async () => {
      if (getState().draft.id !== id || made !== era) return;
      const answer = await call<SaveAnswer>({
        url: `/sequences/${id}/commands`,
        method: 'POST',
        body: { base: getState().draft.revision, commands, role },
      });
      if ('data' in answer) {
        dispatch(slice.actions.saved(answer.data));
        return;
      }
      era++;
      dispatch(slice.actions.failed());
      toast.error(answer.error.message);
      const fresh = await call<SequenceAnswer>({ url: `/sequences/${id}` });
      if ('data' in fresh) dispatch(opened(fresh.data));
    });
    return true;
  };

export const undo = () => (dispatch: AppDispatch, getState: () => RootState) => {
  const last = getState().draft.undo.at(-1);
  if (last) dispatch(edit(last, 'undo'));
};
export const redo = () => (dispatch: AppDispatch, getState: () => RootState) => {
  const last = getState().draft.redo.at(-1);
  if (last) dispatch(edit(last, 'redo'));
};

/** Waits until every edit so far has been saved, and answers the revision. */
export const settled = () => async (_dispatch: AppDispatch, getState: () => RootState) => {
  flushTexts();
  await queue;
  return getState().draft.revision;
};

/** Reads a draft into the store. One that is there already stays, unless the server's is newer and nothing is on its way. */
export const open = (id: string) => async (dispatch: AppDispatch, getState: () => RootState) => {
  const answer = await dispatch(api.endpoints.sequence.initiate(id, { forceRefetch: true, subscribe: false }));
  const { draft, typing } = getState();
  const here = draft.id === id && (draft.unsaved > 0 || typing > 0 || draft.revision >= (answer.data?.revision ?? 0));
  if (answer.data && !here) dispatch(opened(answer.data));
  return answer;
};
