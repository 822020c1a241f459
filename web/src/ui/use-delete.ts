import { toast } from 'sonner';
import { api, sentence } from '../app/api.ts';
import { DELETED, type Deletable } from '../app/tags.ts';
import { useUndo } from './use-undo.ts';

const { useDeleteThingMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    deleteThing: b.mutation<{ undo?: string }, { kind: Deletable; id: string }>({
      query: ({ kind, id }) => ({ url: `/${kind}/${encodeURIComponent(id)}`, method: 'DELETE' }),
      invalidatesTags: (_answer, _error, { kind }) => DELETED[kind],
    }),
  }),
});

/** Deletes something of a kind by its id, and offers to bring it back. Answers whether it is gone. */
export function useDelete(kind: Deletable): (id: string, name: string) => Promise<boolean> {
  const [remove] = useDeleteThingMutation();
  const told = useUndo(DELETED[kind]);
  return async (id, name) => {
    const answer = await remove({ kind, id });
    if (answer.error) {
      toast.error(sentence(answer.error));
      return false;
    }
    told(`Deleted “${name}”.`, answer.data.undo);
    return true;
  };
}
