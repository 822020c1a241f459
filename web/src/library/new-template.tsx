import { useState } from 'react';
import { ForWhom } from './for-whom.tsx';
import { useNavigate } from 'react-router';
import { blankEmail } from '@ascenso/core';
import { sentence } from '../app/api.ts';
import { useKeepTemplateMutation } from '../composer/endpoints.ts';
import { shipped, SourceCard } from '../composer/sources.tsx';
import { Button, Dialog, TextField } from '../ui/index.tsx';
import { newId } from '../ui/names.ts';
import { useLibrary } from './library.tsx';

const EMPTY = {
  name: 'An empty page',
  what: 'A text, a button and the foot.',
  template: null,
  email: blankEmail(newId).email,
};
const BEGINNINGS = [EMPTY, ...shipped];

/** A new template: its name, whose it is, what it begins with; then it is written in the composer. */
export function NewTemplate({ onClose }: { onClose: () => void }) {
  const around = useLibrary();
  const [name, setName] = useState('');
  const [mine, setMine] = useState(false);
  const [from, setFrom] = useState(EMPTY.name);
  const [keep, { error, isLoading }] = useKeepTemplateMutation();
  const navigate = useNavigate();
  const go = async () => {
    const { email } = BEGINNINGS.find((b) => b.name === from) ?? EMPTY;
    const answer = await keep({ name, about: '', email, private: mine });
    if (!answer.error) void navigate(`/library/templates/${answer.data.id}`);
  };
  return (
    <Dialog open onClose={onClose} title="New template" wide>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void go();
        }}
      >
        <div className="flex items-end gap-3">
          <TextField
            label="Name"
            autoFocus
            value={name}
            onChange={(e) => setName(e.target.value)}
            error={error ? sentence(error) : undefined}
          />
          <ForWhom mine={mine} set={setMine} />
          <span className="flex-1" />
          <Button tone="main" type="submit" disabled={isLoading || name.trim() === ''}>
            Write it
          </Button>
        </div>
        <h3 className="mt-4 mb-2 font-sans font-semibold">It begins with</h3>
        <div className="flex max-h-[52vh] flex-wrap gap-3 overflow-y-auto p-0.5">
          {BEGINNINGS.map((b) => (
            <SourceCard
              key={b.name}
              name={b.name}
              email={b.email}
              words={b.what}
              chosen={b.name === from}
              choose={() => setFrom(b.name)}
              around={around}
            />
          ))}
        </div>
      </form>
    </Dialog>
  );
}
