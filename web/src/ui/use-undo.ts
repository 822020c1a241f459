import { toast } from 'sonner';
import { number } from './index.tsx';
import { api, sentence } from '../app/api.ts';
import type { Tag } from '../app/tags.ts';

const { useBringBackMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    bringBack: b.mutation<{ stay?: number }, { undo: string; changes: readonly Tag[] }>({
      query: ({ undo }) => ({ url: `/bin/${undo}`, method: 'POST', body: {} }),
      invalidatesTags: (_answer, _error, { changes }) => changes,
    }),
  }),
});

/**
 * Tells what was done, and offers to bring it back where the server has kept the way (`undo`, an id of its bin); `changes` is
 * what has to be asked again then.
 */
export function useUndo(changes: readonly Tag[]): (words: string, undo: string | undefined) => void {
  const [bring] = useBringBackMutation();
  return (words, undo) => {
    const back = async () => {
      const came = await bring({ undo: undo ?? '', changes });
      if (came.error) toast.error(sentence(came.error));
      else if (came.data.stay)
        toast(
          `${number(came.data.stay)} ${came.data.stay === 1 ? 'stays: an email has' : 'stay: emails have'} gone out already.`,
        );
    };
    toast(words, undo ? { action: { label: 'Undo', onClick: () => void back() } } : {});
  };
}
