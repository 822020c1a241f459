import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { SaveAnswer, SequenceAnswer } from '@ascenso/contracts';
import { applyCommands, CommandError, undoStacks, type Command, type LogEntry, type Sequence } from '@ascenso/core';
import { toast } from 'sonner';
import { api, call, type Failure } from './api.ts';
import { persist } from './persist.ts';
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
  /** The draft, as far as it is saved, is another than what is live. */
  unpublished: boolean;
  /** Why edits are not saved yet, in a sentence; null while the server takes them. */
  waiting: string | null;
}

const initial: DraftState = {
  id: null,
  doc: null,
  revision: 0,
  undo: [],
  redo: [],
  unsaved: 0,
  unpublished: false,
  waiting: null,
};

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
      unpublished: payload.unpublished,
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
      state.unpublished = payload.unpublished;
      state.waiting = null;
      // With nothing more on its way, the server's document is the truth: it holds what others did meanwhile.
      if (state.unsaved === 0) state.doc = payload.draft;
    },
    waiting: (state, { payload }: PayloadAction<string>) => {
      state.waiting = payload;
    },
  },
  extraReducers: (builder) =>
    // Published meanwhile, here or by somebody else.
    builder.addMatcher(api.endpoints.sequence.matchFulfilled, (state, { payload }) => {
      if (payload.id === state.id && payload.revision === state.revision) state.unpublished = payload.unpublished;
    }),
});

export const draftReducer = slice.reducer;
const { opened, edited, saved, waiting } = slice.actions;

/** Edits of one draft on their way to the server, in order. They go on when another draft is opened. */
interface Line {
  last: Promise<void>;
  /** Revision on the server that the next edit goes on top of. */
  revision: number;
  /** Counts refusals: edits that were made on top of a refused one go with it. */
  era: number;
}
const lines = new Map<string, Line>();

function lineOf(id: string): Line {
  const line = lines.get(id) ?? { last: Promise.resolve(), revision: 0, era: 0 };
  lines.set(id, line);
  return line;
}

/** Shows a draft as the server has it. */
const show = (answer: SequenceAnswer) => (dispatch: AppDispatch) => {
  lineOf(answer.id).revision = answer.revision;
  dispatch(opened(answer));
};

/** Why an edit could not be saved yet. */
const reasonOf = ({ status }: Failure): string =>
  status === 401
    ? 'You are signed out: sign in again in another tab.'
    : status === 0
      ? 'The server cannot be reached.'
      : 'The server stumbles just now.';

/** The message that stays while edits cannot be saved. */
const STUCK = { id: 'edits-wait', duration: Infinity };

const leaving = (event: BeforeUnloadEvent) => event.preventDefault();
/** Drafts with edits that the server cannot take just now: only those would be lost with the page. */
const stuck = new Set<string>();

function setStuck(id: string, why: string | null): void {
  if (why === null) stuck.delete(id);
  else stuck.add(id);
  if (why !== null) toast.error(`${why} Your edits are kept here, and saved as soon as that is mended.`, STUCK);
  else if (stuck.size === 0) toast.dismiss(STUCK.id);
  if (stuck.size > 0) window.addEventListener('beforeunload', leaving);
  else window.removeEventListener('beforeunload', leaving);
}

/** Saves one edit. A refused one is taken back by reading the draft anew. */
const save =
  (id: string, commands: Command[], role: LogEntry['role']) =>
  async (dispatch: AppDispatch, getState: () => RootState): Promise<void> => {
    const line = lineOf(id);
    const isOpen = () => getState().draft.id === id;
    const body = { base: line.revision, commands, role, edit: crypto.randomUUID() };
    const answer = await persist<SaveAnswer>({ url: `/sequences/${id}/commands`, method: 'POST', body }, (failure) => {
      const why = reasonOf(failure);
      setStuck(id, why);
      if (isOpen()) dispatch(waiting(why));
    });
    setStuck(id, null);
    if ('data' in answer) {
      line.revision = answer.data.revision;
      if (isOpen()) dispatch(saved(answer.data));
      return;
    }
    line.era++;
    toast.error(answer.error.message);
    if (!isOpen()) return;
    const fresh = await call<SequenceAnswer>({ url: `/sequences/${id}` });
    if ('data' in fresh) dispatch(show(fresh.data));
  };

/** Applies edits at once and saves them in order. Answers whether they fit. */
export const edit =
  (commands: Command[], role: LogEntry['role'] = 'edit') =>
  (dispatch: AppDispatch, getState: () => RootState): boolean => {
    const { doc, id } = getState().draft;
    if (!doc || !id) return false;
    try {
      dispatch(edited({ ...applyCommands(doc, commands), role }));
    } catch (error) {
      toast.error(error instanceof CommandError ? error.message : 'That edit does not fit the draft any more.');
      return false;
    }
    const line = lineOf(id);
    const made = line.era;
    line.last = line.last.then(async () => {
      if (made === line.era) await dispatch(save(id, commands, role));
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
  const { id } = getState().draft;
  if (id) await lineOf(id).last;
  return getState().draft.revision;
};

/** Reads a draft into the store. One that is there already stays, unless the server's is newer and nothing is on its way. */
export const open = (id: string) => async (dispatch: AppDispatch, getState: () => RootState) => {
  // Edits that were left on their way come first: what the server has would be older than what was seen last.
  if (getState().draft.id !== id) await lineOf(id).last;
  const answer = await dispatch(api.endpoints.sequence.initiate(id, { forceRefetch: true, subscribe: false }));
  const { draft, typing } = getState();
  const here = draft.id === id && (draft.unsaved > 0 || typing > 0 || draft.revision >= (answer.data?.revision ?? 0));
  if (answer.data && !here) dispatch(show(answer.data));
  return answer;
};
