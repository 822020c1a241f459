import { useState, type FormEvent } from 'react';
import { useNavigate } from 'react-router';
import { useAround } from '../app/around.ts';
import { type Failure } from '../app/api.ts';
import { useAddPersonMutation } from './people-endpoints.ts';
import { Choice } from '../ui/choice.tsx';
import { Button, Dialog, TextField } from '../ui/index.tsx';
import { ZoneChoice } from '../ui/zone-choice.tsx';

/** Adds one person by hand. */
export function AddPerson({ open, onClose }: { open: boolean; onClose: () => void }) {
  const around = useAround(['attributes', 'lists']);
  const [add, { error, isLoading }] = useAddPersonMutation();
  const [zone, setZone] = useState('');
  const [list, setList] = useState('');
  const navigate = useNavigate();
  const problem = error as Failure | undefined;
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const form = new FormData(e.currentTarget);
    const text = (k: string) => String(form.get(k) ?? '').trim();
    const attributes = Object.fromEntries(['first_name', 'last_name'].filter((k) => text(k)).map((k) => [k, text(k)]));
    const answer = await add({
      email: text('email'),
      attributes,
      zone: zone || null,
      lists: list ? [list] : [],
    });
    if (answer.data) await navigate(`/people/${answer.data.id}`);
  };
  const known = (k: string) => around?.attributes.some((a) => a.key === k);
  return (
    <Dialog open={open} onClose={onClose} title="Add a person">
      <form onSubmit={(e) => void submit(e)} className="flex flex-col gap-3">
        <TextField
          label="Email"
          name="email"
          type="email"
          required
          error={problem?.field === 'email' ? problem.message : undefined}
        />
        <div className="flex gap-3">
          {known('first_name') && <TextField label="First name" name="first_name" />}
          {known('last_name') && <TextField label="Last name" name="last_name" />}
        </div>
        <ZoneChoice label="Time zone" zone={zone} save={setZone} none="not known" />
        <Choice
          label="Confirmed list"
          value={list}
          choose={setList}
          of={[{ value: '', label: 'none' }, ...(around?.lists.map((l) => ({ value: l.id, label: l.name })) ?? [])]}
        />
        <p className="text-[13px] text-ink-2">Confirming a list starts the live sequences that begin with it.</p>
        {problem && problem.field !== 'email' && (
          <p role="alert" className="font-semibold text-brick">
            {problem.message}
          </p>
        )}
        <div className="flex justify-end">
          <Button tone="main" type="submit" disabled={isLoading}>
            Add this person
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
