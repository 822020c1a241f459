import { configureStore, createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { useDispatch, useSelector } from 'react-redux';
import { codeFilesReducer } from '../offers/code-files.ts';
import { republishingReducer } from '../library/republishing.ts';
import { rehearsingReducer } from '../rehearsal/rehearsing.ts';
import { api } from './api.ts';
import { draftReducer } from '../drafts/draft.ts';
import { typingReducer } from './typing.ts';

/** Who the screens are read as: the person chosen travels from screen to screen. */
const reader = createSlice({
  name: 'reader',
  initialState: { person: null as string | null, event: null as string | null },
  reducers: {
    readAs: (state, { payload }: PayloadAction<string | null>) => {
      state.person = payload;
      state.event = null;
    },
    withEvent: (state, { payload }: PayloadAction<string | null>) => {
      state.event = payload;
    },
  },
});
export const { readAs, withEvent } = reader.actions;

export const store = configureStore({
  reducer: {
    draft: draftReducer,
    reader: reader.reducer,
    typing: typingReducer,
    rehearsing: rehearsingReducer,
    codeFiles: codeFilesReducer,
    republishing: republishingReducer,
    [api.reducerPath]: api.reducer,
  },
  // Drafts are plain JSON by their schema; walking them on every edit would be felt.
  middleware: (defaults) => defaults({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
});

export type RootState = ReturnType<typeof store.getState>;
export type AppDispatch = typeof store.dispatch;
export const useApp = useSelector.withTypes<RootState>();
export const useAct = useDispatch.withTypes<AppDispatch>();
