import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { PersonRow } from '@ascenso/contracts';
import { api, sentence, useMeQuery } from '../app/api.ts';
import { Button, buttonClass, Dialog, Sheet, TextField } from '../ui/index.tsx';

const { useErasePersonMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    erasePerson: b.mutation<object, { id: string; email: string }>({
      query: ({ id, email }) => ({ url: `/people/${id}/erase`, method: 'POST', body: { email } }),
      invalidatesTags: (_r, error) => (error ? [] : ['sequences', 'numbers']),
    }),
  }),
});

function EraseDialog({ person, onClose }: { person: PersonRow; onClose: () => void }) {
  const [email, setEmail] = useState('');
  const [erase, { error, isLoading }] = useErasePersonMutation();
  const navigate = useNavigate();
  const submit = async () => {
    const answer = await erase({ id: person.id, email });
    if (answer.error) return;
    toast.success('They are erased.');
    await navigate('/people', { replace: true });
  };
  return (
    <Dialog open onClose={onClose} title="Erase this person">
      <div className="flex flex-col gap-2 text-ink-2">
        <p>
          Their address, attributes, tags, events, story and the emails as they were sent are gone, here and for good.
          They leave every sequence at once; an email that is being handed over at this very moment still arrives.
        </p>
        <p>
          Counts stay: so many emails, openings, clicks and orders, of nobody.{' '}
          {person.mailStatus === 'ok'
            ? 'Should this address come in again, it is a new person.'
            : 'That they get no mail stays known by a hash of the address: should it come in again, they are still not mailed.'}
        </p>
        <p>Copies in backups, in the shop and in people’s mailboxes are not reached from here.</p>
      </div>
      <div className="mt-4">
        <TextField
          label={`Type ${person.email} to go on`}
          value={email}
          autoComplete="off"
          onChange={(e) => setEmail(e.target.value)}
          error={error ? sentence(error) : undefined}
        />
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Keep them</Button>
        <Button
          tone="danger"
          disabled={isLoading || email.trim().toLowerCase() !== person.email}
          onClick={() => void submit()}
        >
          Erase for good
        </Button>
      </div>
    </Dialog>
  );
}

/** What somebody may ask for: a copy of what is kept of them, or its end. */
export function TheirData({ person }: { person: PersonRow }) {
  const [erasing, setErasing] = useState(false);
  const { data: me } = useMeQuery();
  if (!me || me.user.role === 'reviewer') return null;
  return (
    <Sheet className="flex flex-col items-start gap-2.5 p-4">
      <h2 className="font-sans font-semibold">Their data</h2>
      <p className="text-[13px] text-ink-2">When they ask for a copy of what is kept of them, or that it be deleted.</p>
      <a href={`/api/people/${person.id}/file`} download className={buttonClass()}>
        Download as a file
      </a>
      <Button onClick={() => setErasing(true)}>Erase …</Button>
      {erasing && <EraseDialog person={person} onClose={() => setErasing(false)} />}
    </Sheet>
  );
}
