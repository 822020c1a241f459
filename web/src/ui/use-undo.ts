import { toast } from 'sonner';
import { api, sentence } from '../app/api.ts';
import { DELETED, type Deletable } from '../app/tags.ts';

const { useBringBackMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    bringBack: b.mutation<object, { undo: string; kind: Deletable }>({
      query: ({ undo }) => ({ url: `/bin/${undo}`, method: 'POST', body: {} }),
      invalidatesTags: (_answer, _error, { kind }) => DELETED[kind],
    }),
  }),
});

/** Tells what was done to things of a kind, and offers to bring it back where the server has kept the way (`undo`, an id of its bin). */
export function useUndo(kind: Deletable): (words: string, undo: string | undefined) => void {
  const [bring] = useBringBackMutation();
  return (words, undo) => {
    const back = async () => {
      const came = await bring({ undo: undo ?? '', kind });
      if (came.error) toast.error(sentence(came.error));
    };
    toast(words, undo ? { action: { label: 'Undo', onClick: () => void back() } } : {});
  };
}
