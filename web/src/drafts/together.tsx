import { useEffect, useState } from 'react';
import { applyCommands, both, editWords, findStep, opposed, type Command, type Sequence } from '@ascenso/core';
import { useAct, useApp } from '../app/store.ts';
import { Button, Chip, Dialog } from '../ui/index.tsx';
import type { Aside } from './client.ts';
import { edit, here, letGo } from './draft.ts';

/** How often one says where one is and asks what others did, ms. */
const LOOK_EVERY = 4_000;

/** Says where one is as long as the page is in sight, and takes in what others do. */
export function useHere(step: string | null): void {
  const dispatch = useAct();
  const id = useApp((s) => s.draft.id);
  useEffect(() => {
    if (id === null) return;
    const look = () => {
      if (document.visibilityState === 'visible') void dispatch(here(step));
    };
    look();
    const timer = setInterval(look, LOOK_EVERY);
    document.addEventListener('visibilitychange', look);
    return () => {
      clearInterval(timer);
      document.removeEventListener('visibilitychange', look);
    };
  }, [dispatch, id, step]);
}

const fits = (doc: Sequence, commands: readonly Command[]): boolean => {
  try {
    applyCommands(doc, commands);
    return true;
  } catch {
    return false;
  }
};

function Side({ title, words }: { title: string; words: string }) {
  return (
    <div className="min-w-0 flex-1 rounded-control border border-line p-3">
      <p className="mb-1 text-[12px] text-ink-2">{title}</p>
      <p className="max-h-40 overflow-y-auto whitespace-pre-wrap">
        {words || <span className="text-ink-2">no words</span>}
      </p>
    </div>
  );
}

/** One edit of one's own that was set aside, beside what it collides with, and what can be done with it. */
function OneAside({ aside, doc }: { aside: Aside; doc: Sequence }) {
  const dispatch = useAct();
  const { edit: mine, over, why } = aside;
  const pairs = opposed(mine, over);
  const merged = pairs.flatMap(({ ours, theirs }) => both(ours, theirs) ?? (theirs ? [] : [ours]));
  const canBoth = merged.length === pairs.length && pairs.some((p) => p.theirs) && fits(doc, merged);
  const canMine = fits(doc, mine.commands);
  const take = (commands: Command[]) => {
    if (dispatch(edit(commands))) dispatch(letGo(mine.id));
  };
  return (
    <li className="flex flex-col gap-2 border-t border-line py-3 first:border-t-0">
      {pairs.map(({ ours, theirs }, i) => {
        const words = editWords(ours, doc, over);
        return (
          <div key={i} className="flex flex-col gap-1.5">
            <p>
              <b className="font-semibold">{words.where}</b>: {words.what}
            </p>
            {(words.words || theirs) && (
              <div className="flex gap-3">
                <Side title="Yours" words={words.words} />
                {over && <Side title={`${over.by}’s`} words={theirs ? editWords(theirs, doc, null).words : why} />}
              </div>
            )}
          </div>
        );
      })}
      <p className="text-[13px] text-ink-2">
        {why} {!canMine && 'It does not fit any more: copy what you need of it.'}
      </p>
      <div className="flex gap-2">
        {canMine && <Button onClick={() => take(mine.commands)}>Take mine</Button>}
        {canBoth && <Button onClick={() => take(merged)}>Take both</Button>}
        <Button onClick={() => dispatch(letGo(mine.id))}>{canMine ? 'Leave theirs' : 'Let it go'}</Button>
      </div>
    </li>
  );
}

function AsideButton({ asides, doc }: { asides: readonly Aside[]; doc: Sequence }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <button type="button" onClick={() => setOpen(true)}>
        <Chip tone="error">
          Set aside: {asides.length} {asides.length === 1 ? 'edit' : 'edits'}
        </Chip>
      </button>
      <Dialog open={open} onClose={() => setOpen(false)} title="Yours and theirs" wide>
        <p className="text-ink-2">
          These edits of yours touch what somebody else changed at the same time. Nothing is lost: take either.
        </p>
        <ul className="mt-2 max-h-[26rem] overflow-y-auto">
          {asides.map((a) => (
            <OneAside key={a.edit.id} aside={a} doc={doc} />
          ))}
        </ul>
      </Dialog>
    </>
  );
}

/** Who else has the sequence open and where, and what of one's own waits for a decision. */
export function Together() {
  const { others, aside, doc } = useApp((s) => s.draft);
  if (!doc) return null;
  const placeOf = (step: string | null) => {
    const found = step === null ? undefined : findStep(doc, step)?.step;
    return found?.kind === 'email' ? `at “${found.name || found.email.subject}”` : 'at the plan';
  };
  return (
    <>
      {others.map((o) => (
        <span key={o.name} title={`${o.name} is ${placeOf(o.step)}`} className="flex items-center">
          <Chip tone="data">
            {o.name}
            <span className="sr-only"> is {placeOf(o.step)}</span>
          </Chip>
        </span>
      ))}
      {aside.length > 0 && <AsideButton asides={aside} doc={doc} />}
    </>
  );
}
