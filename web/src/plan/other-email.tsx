import { useState } from 'react';
import { toast } from 'sonner';
import type { FoundEmail } from '@ascenso/contracts';
import { findStep, namedCopies, type EmailStep, type Place } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { useAct, useApp } from '../app/store.ts';
import { Thumbnail } from '../composer/thumbnail.tsx';
import { edit } from '../drafts/draft.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { useFindQuery } from '../finding/endpoints.ts';
import { useResting } from '../finding/use-resting.ts';
import { Button, Dialog, TextField } from '../ui/index.tsx';
import { newId } from '../ui/names.ts';
import { askedNames, broughtAlong } from './copying.ts';

function Chosen({ found, take }: { found: FoundEmail; take: (step: EmailStep) => void }) {
  const { data } = useSequenceQuery(found.sequence.id);
  const around = useAround(['style', 'shared', 'offers', 'senders']);
  const step = data && findStep(data.draft, found.step)?.step;
  if (!around || !data || step?.kind !== 'email') return <p className="text-ink-2">Reading it …</p>;
  const offerName = (id: string) => around.offers.find((o) => o.id === id)?.name ?? 'an offer that is gone';
  const along = [
    ...broughtAlong([step], askedNames([step], data.draft), offerName),
    ...(step.forWhom ? ['being for some only'] : []),
    ...(step.window ? ['hours of its own'] : []),
  ];
  return (
    <div className="flex flex-col gap-2">
      <Thumbnail email={step.email} title={`The email “${found.name}”`} around={around} />
      <p className="font-semibold">{step.email.subject || 'No subject'}</p>
      {along.length > 0 && (
        <p className="text-[13px] text-ochre-text">Comes with {along.join(', ')}: look whether it is meant here too.</p>
      )}
      <Button tone="main" onClick={() => take(step)}>
        Put a copy here
      </Button>
    </div>
  );
}

/** Finds an email of any sequence by its name, subject or words, and puts a copy of it into the plan. */
export function OtherEmail({ at, onClose, show }: { at: Place; onClose: () => void; show: (step: string) => void }) {
  const [q, setQ] = useState('');
  const { data } = useFindQuery(useResting(q.trim()));
  const [picked, pick] = useState<FoundEmail | null>(null);
  const dispatch = useAct();
  const doc = useApp((state) => state.draft.doc);
  const take = (step: EmailStep) => {
    const [copy] = doc ? namedCopies([step], doc, newId) : [];
    if (!copy || !dispatch(edit([{ type: 'step.insert', place: at, step: copy }]))) return;
    toast.success(`A copy of “${step.name}” stands in the plan. What is changed there does not change it here.`);
    onClose();
    show(copy.id);
  };
  return (
    <Dialog open onClose={onClose} title="An email of another sequence" wide>
      <TextField
        label="Its name, its subject, or words in it"
        autoFocus
        value={q}
        onChange={(e) => setQ(e.target.value)}
      />
      <div className="mt-3 grid grid-cols-[minmax(0,1fr)_12rem] gap-5">
        <ul className="max-h-[46vh] overflow-y-auto" aria-label="Emails">
          {data?.emails.map((e) => (
            <li key={`${e.sequence.id} ${e.step}`} className="border-t border-line first:border-t-0">
              <button
                type="button"
                aria-pressed={picked?.step === e.step && picked.sequence.id === e.sequence.id}
                onClick={() => pick(e)}
                className="w-full rounded-control px-2 py-1.5 text-left hover:bg-paper-2 aria-pressed:bg-spruce-tint"
              >
                <span className="font-semibold">{e.name || e.subject}</span>{' '}
                <span className="text-[13px] text-ink-2">{e.sequence.name}</span>
                <span className="block truncate text-[13px] text-ink-2">{e.excerpt || e.subject}</span>
              </button>
            </li>
          ))}
          {data?.emails.length === 0 && <li className="py-2 text-ink-2">No email is called so, and none says it.</li>}
        </ul>
        {picked ? (
          <Chosen found={picked} take={take} />
        ) : (
          <p className="text-ink-2">Choose one to see it before it is copied.</p>
        )}
      </div>
    </Dialog>
  );
}
