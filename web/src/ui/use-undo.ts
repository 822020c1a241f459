import { toast } from 'sonner';
import { sentence, useChangeMutation } from '../app/api.ts';

/** Tells what was done, and offers to bring it back where the server has kept the way (`undo`, an id of its bin). */
export function useUndo(): (words: string, undo: string | undefined) => void {
  const [change] = useChangeMutation();
  return (words, undo) => {
    const back = async () => {
      const came = await change({ url: `/bin/${undo ?? ''}`, method: 'POST', body: {} });
      if (came.error) toast.error(sentence(came.error));
    };
    toast(words, undo ? { action: { label: 'Undo', onClick: () => void back() } } : {});
  };
}
