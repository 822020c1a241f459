import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import { sentence } from '../app/api.ts';
import { setUnderWay } from '../app/leaving.ts';
import { useKeepFileMutation } from '../library/endpoints.ts';
import { newId } from '../ui/names.ts';

/** Puts a file of the library where it belongs. False where that place is gone. */
export type PutFile = (id: string) => boolean;

/**
 * Uploads a file and puts it where it was meant for, also when one works elsewhere by then; `here` is for places that end
 * with their screen. What went wrong is told. The second value says whether one is on its way.
 */
export function useUpload(here = false): [(file: File, put: PutFile) => Promise<void>, boolean] {
  const [keep, { isLoading }] = useKeepFileMutation();
  // What is on its way from here, by the id of its message: told of once its place is not on the screen any more.
  const going = useRef(new Map<string, string>());
  const left = useRef(false);
  useEffect(() => {
    const mine = going.current;
    left.current = false;
    return () => {
      left.current = true;
      for (const [id, name] of mine) toast.loading(`“${name}” is still on its way.`, { id });
    };
  }, []);
  const upload = async (file: File, put: PutFile) => {
    const id = newId();
    const body = new FormData();
    body.append('file', file);
    going.current.set(id, file.name);
    setUnderWay(id, true);
    const answer = await keep(body);
    setUnderWay(id, false);
    going.current.delete(id);
    if (answer.error) return void toast.error(`${file.name}: ${sentence(answer.error)}`, { id });
    const { known } = answer.data;
    const told = known
      ? `“${file.name}” is in the library already, as “${known}”: that one is used.`
      : left.current && `“${file.name}” has arrived and stands in its place.`;
    if ((here && left.current) || !put(answer.data.id))
      toast(`“${file.name}” is in the library, and could not be put in its place.`, { id });
    else if (told) toast(told, { id });
  };
  return [upload, isLoading];
}
