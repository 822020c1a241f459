import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { Behaviour, Value } from '@ascenso/core';

/** Something that is to happen besides, so many days after entry. */
export interface Injected {
  name: string;
  day: number;
}

/** Somebody made up for a rehearsal: nobody like them has to exist. */
export interface Invented {
  name: string;
  zone: string;
  tags: string[];
  attributes: Record<string, Value>;
}

/** How a rehearsal is set up; it stays while one goes from screen to screen. */
export interface Rehearsing {
  open: boolean;
  /** Rehearsed instead of a real person, where it is not null. */
  invented: Invented | null;
  /** Moment of entry, epoch ms; null is the present of the clock. */
  at: number | null;
  usually: Behaviour;
  emails: Record<string, Behaviour>;
  events: Injected[];
  /** Steps and arms on the rehearsed way; null while nothing is rehearsed. */
  path: string[] | null;
  /** Where the rehearsed person waits, until when, in words of their own zone, by step id. */
  ends: Record<string, string>;
}

const initialState: Rehearsing = {
  open: false,
  invented: null,
  at: null,
  usually: { does: 'opens' },
  emails: {},
  events: [],
  path: null,
  ends: {},
};

const slice = createSlice({
  name: 'rehearsing',
  initialState,
  reducers: {
    rehearse: (state, { payload }: PayloadAction<Partial<Rehearsing>>) => ({ ...state, ...payload }),
    behave: (state, { payload: { step, behaviour } }: PayloadAction<{ step: string; behaviour: Behaviour | null }>) => {
      if (behaviour) state.emails[step] = behaviour;
      else delete state.emails[step];
    },
  },
});
export const rehearsingReducer = slice.reducer;
export const { rehearse, behave } = slice.actions;
