import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { toast } from 'sonner';
import type { CodesAnswer, ErrorAnswer } from '@ascenso/contracts';
import { api } from '../app/api.ts';
import type { AppDispatch } from '../app/store.ts';
import { number } from '../ui/index.tsx';

/** A file of codes on its way to an offer, or what came of the last one. */
export interface CodeFileState {
  name: string;
  /** Bytes of the file, and of those the server has taken. It takes them as it writes the codes. */
  size: number;
  sent: number;
  busy: boolean;
  told: CodesAnswer | null;
}

const slice = createSlice({
  name: 'codeFiles',
  initialState: (): Record<string, CodeFileState> => ({}),
  reducers: {
    begun: (
      state,
      { payload: { offer, name, size } }: PayloadAction<{ offer: string; name: string; size: number }>,
    ) => {
      state[offer] = { name, size, sent: 0, busy: true, told: null };
    },
    went: (state, { payload: { offer, sent } }: PayloadAction<{ offer: string; sent: number }>) => {
      const file = state[offer];
      if (file) file.sent = sent;
    },
    ended: (state, { payload: { offer, told } }: PayloadAction<{ offer: string; told: CodesAnswer | null }>) => {
      const file = state[offer];
      if (file) Object.assign(file, { busy: false, told });
    },
  },
});
export const codeFilesReducer = slice.reducer;

/** Requests on their way and the files they carry, by offer: neither is JSON, so they stand beside the store. */
const requests = new Map<string, XMLHttpRequest>();
const files = new Map<string, File>();

const leaving = (event: BeforeUnloadEvent) => event.preventDefault();
/** Only closing the page breaks a file off, so that is asked about. */
const watchLeaving = () =>
  requests.size > 0
    ? window.addEventListener('beforeunload', leaving)
    : window.removeEventListener('beforeunload', leaving);

/** What the server says, or null where something between it and the browser speaks. */
function readAnswer(text: string): CodesAnswer | ErrorAnswer | null {
  try {
    return JSON.parse(text) as CodesAnswer | ErrorAnswer;
  } catch {
    return null;
  }
}

/** Ends the sending of a file; the server takes back what it had of it. */
export const cancelCodes = (offer: string): void => requests.get(offer)?.abort();

/**
 * Sends a file of codes to an offer; it goes on while other screens are looked at. `skip` takes the good lines alone.
 * XMLHttpRequest, since fetch does not tell how much of a body has gone (Fetch standard: no upload progress).
 */
export const sendCodes = (offer: string, file: File, skip: boolean) => (dispatch: AppDispatch) => {
  const request = new XMLHttpRequest();
  requests.set(offer, request);
  files.set(offer, file);
  dispatch(slice.actions.begun({ offer, name: file.name, size: file.size }));
  const end = (told: CodesAnswer | null) => {
    requests.delete(offer);
    watchLeaving();
    dispatch(slice.actions.ended({ offer, told }));
  };
  request.upload.onprogress = ({ loaded }) => dispatch(slice.actions.went({ offer, sent: loaded }));
  const lost = () => {
    toast.error(`“${file.name}” did not arrive: no code of it was added. Try again.`);
    end(null);
  };
  request.onload = () => {
    const answer = readAnswer(request.responseText);
    if (!answer) return lost();
    if ('error' in answer) {
      toast.error(answer.error.message);
      return end(null);
    }
    if (answer.added > 0)
      toast.success(`${number(answer.added)} ${answer.added === 1 ? 'code' : 'codes'} added from “${file.name}”.`);
    dispatch(api.util.invalidateTags(['around']));
    end(answer);
  };
  request.onabort = () => {
    toast(`“${file.name}” was taken back: no code of it was added.`);
    end(null);
  };
  request.onerror = lost;
  request.open('POST', `/api/offers/${offer}/codes${skip ? '?skip=1' : ''}`);
  request.setRequestHeader('Content-Type', 'text/csv');
  request.send(file);
  watchLeaving();
};

/** Sends the last file again, for its good lines. */
export const sendGoodLines = (offer: string) => (dispatch: AppDispatch) => {
  const file = files.get(offer);
  if (file) dispatch(sendCodes(offer, file, true));
};
