import { toast } from 'sonner';
import { sentence, useChangeMutation } from '../app/api.ts';

/** Deletes something at an address of the API, and offers to bring it back. Answers whether it is gone. */
export function useDelete(): (url: string, name: string) => Promise<boolean> {
  const [change] = useChangeMutation();
  return async (url, name) => {
    const answer = await change({ url, method: 'DELETE' });
    if (answer.error) {
      toast.error(sentence(answer.error));
      return false;
    }
    const { undo } = answer.data;
    const back = async () => {
      const came = await change({ url: `/bin/${undo ?? ''}`, method: 'POST', body: {} });
      if (came.error) toast.error(sentence(came.error));
    };
    toast(`Deleted “${name}”.`, undo ? { action: { label: 'Undo', onClick: () => void back() } } : {});
    return true;
  };
}
