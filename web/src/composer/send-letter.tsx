import { Send } from 'lucide-react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { SequenceAnswer } from '@ascenso/contracts';
import { api, sentence } from '../app/api.ts';
import { readAs, useAct, useApp } from '../app/store.ts';
import { Button, Dialog } from '../ui/index.tsx';

const { useSendLetterMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    sendLetter: b.mutation<object, { id: string; revision: number }>({
      query: ({ id, revision }) => ({ url: `/letters/${id}/send`, method: 'POST', body: { revision } }),
      invalidatesTags: ['people', 'draft', 'sequences'],
    }),
  }),
});

/** Sends a letter to the one person whom it is written to, once what is typed has been saved. */
export function SendLetter({ id, person }: { id: string; person: NonNullable<SequenceAnswer['person']> }) {
  const { revision, unsaved } = useApp((s) => s.draft);
  const [asking, setAsking] = useState(false);
  const [send, { isLoading }] = useSendLetterMutation();
  const navigate = useNavigate();
  const dispatch = useAct();
  // It is read as whom it is for.
  useEffect(() => void dispatch(readAs(person.id)), [dispatch, person.id]);
  const go = async () => {
    const answer = await send({ id, revision });
    setAsking(false);
    if (answer.error) return void toast.error(sentence(answer.error));
    toast.success(`It is on its way to ${person.name}.`);
    void navigate(`/people/${person.id}`);
  };
  return (
    <>
      <Button tone="main" disabled={person.sent || unsaved > 0 || isLoading} onClick={() => setAsking(true)}>
        <Send size={15} aria-hidden="true" />
        {person.sent ? `Sent to ${person.name}` : `Send it to ${person.name}`}
      </Button>
      <Dialog open={asking} onClose={() => setAsking(false)} title={`Send it to ${person.name}?`}>
        <p className="text-ink-2">It goes out now, to nobody else, and once.</p>
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setAsking(false)}>Not yet</Button>
          <Button tone="main" onClick={() => void go()}>
            Send it
          </Button>
        </div>
      </Dialog>
    </>
  );
}
