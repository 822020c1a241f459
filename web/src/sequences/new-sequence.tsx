import { FileUp } from 'lucide-react';
import { useMemo, useState, type FormEvent } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { emailSteps, fromPattern, patterns, rhythmOf, triggersWords, type Pattern, type Sequence } from '@ascenso/core';
import { sentence } from '../app/api.ts';
import { useAddSequenceMutation, useImportSequenceMutation } from './endpoints.ts';
import { Button, Dialog, TextField } from '../ui/index.tsx';
import { useFilePicker } from '../ui/file-field.tsx';
import { newId, useNames } from '../ui/names.ts';
import { PatternEmails } from './pattern-emails.tsx';
import { Rhythm } from './rhythm.tsx';

/** The rhythm of a plan that nobody has been sent yet. */
function marksOf(doc: Sequence) {
  const at = rhythmOf(doc);
  return emailSteps(doc).flatMap((s) => {
    const landing = at.get(s.id);
    return landing === undefined ? [] : [{ step: s.id, name: s.name, at: landing, sent: 1, opened: 1, clicked: 0 }];
  });
}

/** What a pattern makes, with nothing of one's own in it yet. */
const drawn = (pattern: Pattern): Sequence =>
  fromPattern(pattern, {
    newId,
    list: null,
    events: ['order.paid', 'session.booked', 'club.renewed'],
    dates: ['birthday', 'renews_on'],
  });

function Beginning({ pattern, chosen, choose }: { pattern: Pattern | null; chosen: boolean; choose: () => void }) {
  const names = useNames(null);
  const doc = useMemo(() => pattern && drawn(pattern), [pattern]);
  return (
    <label
      className={`flex cursor-pointer flex-col gap-1 rounded-sheet border p-3 focus-within:ring-2 focus-within:ring-spruce ${chosen ? 'border-spruce bg-spruce-tint' : 'border-line hover:bg-paper-2'}`}
    >
      <span className="flex items-center gap-2">
        <input type="radio" name="pattern" checked={chosen} onChange={choose} />
        <b className="font-semibold">{pattern?.name ?? 'From nothing'}</b>
      </span>
      <span className="text-[13px] text-ink-2">{pattern?.what ?? 'An empty plan: every step is yours.'}</span>
      {doc && (
        <span className="mt-auto pt-1">
          <Rhythm marks={marksOf(doc)} width={180} />
        </span>
      )}
      {doc && (
        <span className="text-[12px] text-dawn-text">
          {doc.triggers[0]?.kind === 'list'
            ? 'When someone joins a list'
            : triggersWords(doc.triggers, names).replace('Choose what starts it', 'An event that you choose')}
        </span>
      )}
    </label>
  );
}

/** Everything that a sequence can begin with: nothing, a pattern, or a file. */
export function NewSequence({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [name, setName] = useState('');
  const [chosen, setChosen] = useState<Pattern | null>(null);
  /** The plan whose emails are being read. */
  const [read, setRead] = useState<Sequence | null>(null);
  const [add, { error, isLoading }] = useAddSequenceMutation();
  const [bringIn, bringing] = useImportSequenceMutation();
  const navigate = useNavigate();
  const file = useFilePicker('File of an exported sequence', 'application/json,.json', ([f]) => void bring(f));
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    const answer = await add({ name: name.trim() || (chosen?.name ?? ''), ...(chosen ? { pattern: chosen.id } : {}) });
    if (answer.data) await navigate(`/sequences/${answer.data.id}`);
  };
  const bring = async (picked: File | undefined) => {
    if (!picked) return;
    let body: unknown;
    try {
      body = JSON.parse(await picked.text());
    } catch {
      return toast.error('That is no exported sequence: choose a file that Ascenso wrote.');
    }
    const answer = await bringIn(body);
    if (answer.data) await navigate(`/sequences/${answer.data.id}`);
    else toast.error(sentence(answer.error));
  };
  return (
    <Dialog open={open} onClose={onClose} title="New sequence" wide>
      <form onSubmit={(e) => void submit(e)} className="flex flex-col gap-4">
        <TextField
          label="What is it called?"
          placeholder={chosen?.name ?? 'Welcome and stitch guide'}
          value={name}
          onChange={(e) => setName(e.target.value)}
          error={error ? sentence(error) : undefined}
          autoFocus
        />
        {read && <PatternEmails doc={read} />}
        <fieldset className={read ? 'hidden' : ''}>
          <legend className="mb-2 text-[12px] text-ink-2">What does it begin with?</legend>
          <div className="grid max-h-[46vh] grid-cols-3 gap-2 overflow-y-auto p-1">
            <Beginning pattern={null} chosen={chosen === null} choose={() => setChosen(null)} />
            {patterns.map((p) => (
              <Beginning key={p.id} pattern={p} chosen={chosen?.id === p.id} choose={() => setChosen(p)} />
            ))}
          </div>
        </fieldset>
        {chosen && (
          <div className="flex items-start gap-3 rounded-control bg-ochre-tint px-3 py-2 text-ochre-text">
            <p className="flex-1">
              <b className="font-semibold">To make your own:</b> {chosen.yours.join('; ')}. The checks lead you to each
              of them.
            </p>
            <Button className="shrink-0" onClick={() => setRead(read ? null : drawn(chosen))}>
              {read ? 'Back to what it begins with' : `Read the emails of “${chosen.name}”`}
            </Button>
          </div>
        )}
        <div className="flex items-center gap-3">
          {file.field}
          <Button tone="quiet" disabled={bringing.isLoading} onClick={file.open}>
            <FileUp size={15} aria-hidden="true" />
            Bring one in from a file
          </Button>
          <p className="flex-1 text-right text-ink-2">Nothing goes out until you publish it.</p>
          <Button tone="main" type="submit" disabled={isLoading}>
            Begin the plan
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
