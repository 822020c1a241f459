import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { toast } from 'sonner';
import type { HereAnswer, Present, SaveAnswer, SequenceAnswer } from '@ascenso/contracts';
import type { Command, Edit, Sequence } from '@ascenso/core';
import { call, type Failure } from '../app/api.ts';
import { draftApi } from './endpoints.ts';
import { setUnderWay } from '../app/leaving.ts';
import { flushTexts } from '../app/typing.ts';
import type { AppDispatch, RootState } from '../app/store.ts';
import { DraftClient, misfitOf, type Aside } from './client.ts';
import { forget, keep, leftOf, TAB, type Kept } from './keeping.ts';
import { persist } from './persist.ts';

/** The draft on the screen: ahead of the server by the edits that are still on their way. */
export interface DraftState {
  id: string | null;
  doc: Sequence | null;
  revision: number;
  /** How much can be taken back and brought back. */
  undo: number;
  redo: number;
  unsaved: number;
  /** The draft, as far as it is saved, is another than what is live. */
  unpublished: boolean;
  /** Why edits are not saved yet, in a sentence; null while the server takes them. */
  waiting: string | null;
  /** Edits of one's own that collide with what others did. */
  aside: readonly Aside[];
  /** Who else has it open. */
  others: readonly Present[];
}

const initial: DraftState = {
  id: null,
  doc: null,
  revision: 0,
  undo: 0,
  redo: 0,
  unsaved: 0,
  unpublished: false,
  waiting: null,
  aside: [],
  others: [],
};

const slice = createSlice({
  name: 'draft',
  initialState: initial,
  reducers: {
    shown: (
      state,
      { payload: { id, view } }: PayloadAction<{ id: string; view: DraftClient['view'] }>,
    ): DraftState => ({
      ...(state.id === id ? state : initial),
      ...view,
      id,
    }),
    waiting: (state, { payload }: PayloadAction<string | null>) => {
      state.waiting = payload;
    },
    seen: (state, { payload }: PayloadAction<readonly Present[]>) => {
      state.others = [...payload];
    },
  },
});

export const draftReducer = slice.reducer;
const { shown, waiting, seen } = slice.actions;

/** Drafts that have been open in this page. Their edits go on to the server when another is opened. */
const clients = new Map<string, DraftClient>();

/** Why an edit could not be saved yet. */
const reasonOf = ({ status }: Failure): string =>
  status === 401
    ? 'You are signed out: sign in again in another tab.'
    : status === 0
      ? 'The server cannot be reached.'
      : 'The server stumbles just now.';

/** The message that stays while edits cannot be saved. */
const STUCK = { id: 'edits-wait', duration: Infinity };

/** Drafts with edits that the server cannot take just now. */
const stuck = new Set<string>();

function setStuck(id: string, why: string | null): void {
  if (why === null) stuck.delete(id);
  else stuck.add(id);
  if (why !== null)
    toast.error(`${why} Your edits are kept in this browser, and saved as soon as that is mended.`, STUCK);
  else if (stuck.size === 0) toast.dismiss(STUCK.id);
  setUnderWay('edits', stuck.size > 0);
}

/** Sends edits of a draft until they are answered, telling what stands in the way. */
const saver =
  (id: string, tell: (why: string | null) => void) =>
  async (body: { base: number; edits: Edit[] }): Promise<{ data: SaveAnswer } | { error: Failure }> => {
    const request = { url: `/sequences/${id}/commands`, method: 'POST', body };
    const answer = await persist<SaveAnswer>(request, (failure) => tell(reasonOf(failure)));
    tell(null);
    return answer;
  };

/** A draft as the server has it, with what earlier pages left set aside. */
const clientOf =
  (answer: SequenceAnswer, aside: readonly Aside[]) =>
  (dispatch: AppDispatch, getState: () => RootState): DraftClient => {
    const { id } = answer;
    const isOpen = () => getState().draft.id === id;
    const tell = (why: string | null) => {
      setStuck(id, why);
      if (isOpen() && getState().draft.waiting !== why) dispatch(waiting(why));
    };
    const client = new DraftClient(answer, aside, {
      save: saver(id, tell),
      keep: (pending, base, set) => keep(id, pending, base, set),
      changed: () => isOpen() && clients.get(id) === client && dispatch(shown({ id, view: client.view })),
      say: (sentence) => toast.error(sentence),
      newId: () => crypto.randomUUID(),
    });
    clients.set(id, client);
    return client;
  };

function put(client: DraftClient, commands: Command[]): boolean {
  try {
    client.edit(commands);
    return true;
  } catch (error) {
    toast.error(misfitOf(error));
    return false;
  }
}

/** Applies edits to the draft on the screen at once and saves them in order. Answers whether they fit. */
export const edit =
  (commands: Command[]) =>
  (dispatch: AppDispatch, getState: () => RootState): boolean =>
    dispatch(editOf(getState().draft.id ?? '', () => commands));

/**
 * Applies edits to a draft that has been open in this page, whichever is on the screen by now: what had to be waited for
 * still goes where it was meant to go. `make` reads the draft as it is now. Answers whether they fit.
 */
export const editOf =
  (id: string, make: (doc: Sequence) => Command[]) =>
  (_dispatch: AppDispatch): boolean => {
    const client = clients.get(id);
    return client !== undefined && put(client, make(client.view.doc));
  };

export const undo = () => (_dispatch: AppDispatch, getState: () => RootState) =>
  clients.get(getState().draft.id ?? '')?.undo();
export const redo = () => (_dispatch: AppDispatch, getState: () => RootState) =>
  clients.get(getState().draft.id ?? '')?.redo();

/** Lets go of an edit that was set aside. */
export const letGo = (edit: string) => (_dispatch: AppDispatch, getState: () => RootState) =>
  clients.get(getState().draft.id ?? '')?.letGo(edit);

/** Waits until every edit so far has been saved, and answers the revision. */
export const settled = () => async (_dispatch: AppDispatch, getState: () => RootState) => {
  flushTexts();
  await clients.get(getState().draft.id ?? '')?.settled();
  return getState().draft.revision;
};

/** Brings to the server what a page that is gone had left; answers what has to be decided of it. */
async function bring(id: string, left: Kept, tell: (why: string | null) => void): Promise<Aside[]> {
  const { pending, base } = left;
  const aside = [...left.aside];
  const save = saver(id, tell);
  const whole = pending.length > 0 ? await save({ base, edits: [...pending] }) : undefined;
  if (whole && 'data' in whole) {
    for (const { id: which, over, why } of whole.data.aside)
      aside.push(...pending.filter((e) => e.id === which).map((edit) => ({ edit, over, why })));
  } else if (whole) {
    // One after the other, each with those before it: what does not fit any more, perhaps since a new release, is set
    // aside alone.
    const taken: Edit[] = [];
    for (const edit of pending) {
      const answer = await save({ base, edits: [...taken, edit] });
      if ('error' in answer) aside.push({ edit, over: null, why: answer.error.message });
      else if (answer.data.aside.some((a) => a.id === edit.id))
        aside.push(...answer.data.aside.filter((a) => a.id === edit.id).map(({ over, why }) => ({ edit, over, why })));
      else taken.push(edit);
    }
  }
  return aside;
}

/** Reads a draft into the store. One that is there already stays, and takes in what is new. */
export const open = (id: string) => async (dispatch: AppDispatch, getState: () => RootState) => {
  // Edits that were left on their way come first: what the server has would be older than what was seen last.
  if (getState().draft.id !== id) await clients.get(id)?.settled();
  const left = await leftOf(id);
  const tell = (why: string | null) => setStuck(id, why);
  const aside = (await Promise.all(left.map((k) => bring(id, k, tell)))).flat();
  const answer = await dispatch(draftApi.endpoints.sequence.initiate(id, { forceRefetch: true, subscribe: false }));
  if (!answer.data) return answer;
  const known = clients.get(id);
  const mine =
    known && (known.view.unsaved > 0 || getState().typing > 0 || known.view.revision >= answer.data.revision);
  const client = mine ? known : dispatch(clientOf(answer.data, known?.view.aside ?? []));
  client.told(answer.data.revision, answer.data.unpublished);
  dispatch(shown({ id, view: client.view }));
  client.adopt(aside);
  await Promise.all(left.map(forget));
  return answer;
};

/** Takes in what the server says of a draft anew: somebody may have published it. */
export const told =
  ({ id, revision, unpublished }: SequenceAnswer) =>
  (): void =>
    clients.get(id)?.told(revision, unpublished);

/** Tells the server where one is, and takes in who else is here and what they did. */
export const here = (step: string | null) => async (dispatch: AppDispatch, getState: () => RootState) => {
  const { id } = getState().draft;
  const client = id === null ? undefined : clients.get(id);
  if (!id || !client) return;
  const body = { tab: TAB, step, revision: client.view.revision };
  const answer = await call<HereAnswer>({ url: `/sequences/${id}/here`, method: 'POST', body });
  if (!('data' in answer) || getState().draft.id !== id) return;
  const { others, edits, unpublished, liveVersion } = answer.data;
  if (JSON.stringify(others) !== JSON.stringify(getState().draft.others)) dispatch(seen(others));
  // A text that is being typed becomes an edit first: then it is minded.
  if (edits.length > 0) flushTexts();
  if (edits.length > 0) client.receive(edits, unpublished);
  const { data: about } = draftApi.endpoints.sequence.select(id)(getState());
  if (about && about.liveVersion !== liveVersion) dispatch(draftApi.util.invalidateTags(['draft', 'sequences']));
};
