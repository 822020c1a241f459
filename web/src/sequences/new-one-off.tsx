import { useState, type FormEvent } from 'react';
import { useNavigate } from 'react-router';
import { sentence } from '../app/api.ts';
import { Button, Dialog, TextField } from '../ui/index.tsx';
import { useAddSequenceMutation } from './endpoints.ts';

/** A one-off send begins with its name; all else follows in the order of the work. */
export function NewOneOff({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [name, setName] = useState('');
  const [add, { error, isLoading }] = useAddSequenceMutation();
  const navigate = useNavigate();
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    const answer = await add({ name, oneOff: true });
    if (answer.data) await navigate(`/sequences/${answer.data.id}`);
  };
  return (
    <Dialog open={open} onClose={onClose} title="New one-off send">
      <form onSubmit={(e) => void submit(e)} className="flex flex-col gap-3">
        <TextField
          label="What is it called, among you?"
          placeholder="Spring papers are here"
          value={name}
          onChange={(e) => setName(e.target.value)}
          error={error ? sentence(error) : undefined}
          autoFocus
        />
        <p className="text-ink-2">Nothing goes out until you send it off.</p>
        <Button tone="main" type="submit" className="self-end" disabled={isLoading}>
          Begin it
        </Button>
      </form>
    </Dialog>
  );
}
