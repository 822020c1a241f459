import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import { toast } from 'sonner';
import type { CodesAnswer } from '@ascenso/contracts';
import { around } from '../app/tags.ts';
import { api } from '../app/api.ts';
import { cancelSending, sendFile } from '../app/sending-files.ts';
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

/** The files themselves, by offer: no JSON, so they stand beside the store. */
const files = new Map<string, File>();

/** Ends the sending of a file; the server takes back what it had of it. */
export const cancelCodes = (offer: string): void => cancelSending(`codes ${offer}`);

/** Sends a file of codes to an offer. `skip` takes the good lines alone. */
export const sendCodes = (offer: string, file: File, skip: boolean) => (dispatch: AppDispatch) => {
  files.set(offer, file);
  dispatch(slice.actions.begun({ offer, name: file.name, size: file.size }));
  const end = (told: CodesAnswer | null) => dispatch(slice.actions.ended({ offer, told }));
  sendFile<CodesAnswer>(`codes ${offer}`, `/offers/${offer}/codes${skip ? '?skip=1' : ''}`, file, {
    went: (sent) => dispatch(slice.actions.went({ offer, sent })),
    arrived: (answer) => {
      if (answer.added > 0)
        toast.success(`${number(answer.added)} ${answer.added === 1 ? 'code' : 'codes'} added from “${file.name}”.`);
      dispatch(api.util.invalidateTags(around('offers')));
      end(answer);
    },
    refused: (message) => {
      toast.error(message);
      end(null);
    },
    takenBack: () => {
      toast(`“${file.name}” was taken back: no code of it was added.`);
      end(null);
    },
    lost: () => {
      toast.error(`“${file.name}” did not arrive: no code of it was added. Try again.`);
      end(null);
    },
  });
};

/** Sends the last file again, for its good lines. */
export const sendGoodLines = (offer: string) => (dispatch: AppDispatch) => {
  const file = files.get(offer);
  if (file) dispatch(sendCodes(offer, file, true));
};
