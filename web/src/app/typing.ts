import { createSlice } from '@reduxjs/toolkit';

// Texts that are being typed and have not become an edit yet. The header says so, and leaving the page hands them over.
const waiting = new Set<() => void>();

/** Hands over every text that is still being typed. */
export const flushTexts = () => {
  for (const flush of [...waiting]) flush();
};

const slice = createSlice({
  name: 'typing',
  initialState: 0,
  reducers: { count: () => waiting.size },
});
export const typingReducer = slice.reducer;
export const typingCounted = slice.actions.count;

export const waits = (flush: () => void) => void waiting.add(flush);
export const waitsNoMore = (flush: () => void) => void waiting.delete(flush);

for (const event of ['pagehide', 'blur'] as const) window.addEventListener(event, flushTexts);
