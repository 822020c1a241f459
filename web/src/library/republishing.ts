import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { toast } from 'sonner';
import type { ErrorAnswer, Republished } from '@ascenso/contracts';
import { around } from '../app/tags.ts';
import { api } from '../app/api.ts';
import type { AppDispatch } from '../app/store.ts';

/** Sequences that are being published anew with what the house has changed, or what came of the last time. */
export interface RepublishingState {
  /** How many there are, and how many are done. */
  of: number;
  done: number;
  busy: boolean;
  /** Those that could not be, with the reason. */
  refused: { id: string; why: string }[];
}

const initialState: RepublishingState = { of: 0, done: 0, busy: false, refused: [] };

const slice = createSlice({
  name: 'republishing',
  initialState,
  reducers: {
    begun: (_state, { payload: of }: PayloadAction<number>): RepublishingState => ({
      of,
      done: 0,
      busy: true,
      refused: [],
    }),
    went: (state, { payload }: PayloadAction<Republished>) => {
      state.done++;
      if ('error' in payload) state.refused.push({ id: payload.id, why: payload.error });
    },
    ended: (state) => {
      state.busy = false;
    },
  },
});
export const republishingReducer = slice.reducer;

let under: AbortController | null = null;
/** Stops after the sequence that is being published. What has been published stays. */
export const stopRepublishing = (): void => under?.abort();

/** Lines of a body as they arrive. */
async function* linesOf(body: NonNullable<Response['body']>): AsyncGenerator<string> {
  const reader = body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = '';
  for (;;) {
    const { done, value } = await reader.read();
    if (done) return;
    const lines = (rest + value).split('\n');
    rest = lines.pop() ?? '';
    yield* lines;
  }
}

/** Publishes what the house has changed in these sequences, and nothing else of them. It goes on while one is elsewhere. */
export const republish =
  (sequences: readonly string[]) =>
  async (dispatch: AppDispatch): Promise<void> => {
    under = new AbortController();
    dispatch(slice.actions.begun(sequences.length));
    let done = 0;
    try {
      const answer = await fetch('/api/behind', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ sequences }),
        signal: under.signal,
      });
      if (!answer.ok || !answer.body) throw new Error(((await answer.json()) as ErrorAnswer).error.message);
      for await (const line of linesOf(answer.body)) {
        const told = JSON.parse(line) as Republished;
        if ('version' in told) done++;
        dispatch(slice.actions.went(told));
      }
      if (done > 0)
        toast.success(done === 1 ? 'Published: it runs with the change now.' : `Published in ${done} sequences.`);
    } catch (error) {
      if (under.signal.aborted) toast(`Stopped: ${done} of ${sequences.length} are published.`);
      else
        toast.error(
          error instanceof Error && !(error instanceof TypeError)
            ? error.message
            : 'The server cannot be reached. Try again.',
        );
    } finally {
      dispatch(slice.actions.ended());
      dispatch(api.util.invalidateTags(['sequences', 'draft', 'numbers', ...around('sequences', 'shared')]));
    }
  };
