import { toast } from 'sonner';
import { sentence, useChangeMutation } from '../app/api.ts';
import { useUndo } from './use-undo.ts';

/** Deletes something at an address of the API, and offers to bring it back. Answers whether it is gone. */
export function useDelete(): (url: string, name: string) => Promise<boolean> {
  const [change] = useChangeMutation();
  const told = useUndo();
  return async (url, name) => {
    const answer = await change({ url, method: 'DELETE' });
    if (answer.error) {
      toast.error(sentence(answer.error));
      return false;
    }
    told(`Deleted “${name}”.`, answer.data.undo);
    return true;
  };
}
