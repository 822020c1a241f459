import { ListChecks, Send } from 'lucide-react';
import { Link } from 'react-router';
import { isOneOff, type Finding } from '@ascenso/core';
import { toFix } from '../plan/findings.tsx';
import { SavedNote, UndoButtons } from '../plan/sequence.tsx';
import { Button, buttonClass } from '../ui/index.tsx';
import { useAct } from '../app/store.ts';
import { edit } from '../drafts/draft.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { NameInPlace } from '../ui/name-in-place.tsx';
import { useComposer } from './context.ts';
import { SendLetter } from './send-letter.tsx';
import type { Opened } from './dialogs.tsx';

/** What can be opened from the head, in the words of the button, and its whole name. */
const TOOLS: readonly [what: Opened, word: string, name: string][] = [
  ['history', 'Versions', 'Earlier versions'],
  ['templates', 'Templates', 'Templates'],
  ['links', 'Links', 'Links of this email'],
  ['text', 'Plain text', 'Plain text'],
  ['review', 'Review', 'Review'],
];

/** Where one is and what it is called; a template is named here, an email in its step. */
function Where({ back, template }: { back: string; template: boolean }) {
  const { id, doc, step } = useComposer();
  const { data: about } = useSequenceQuery(id);
  const dispatch = useAct();
  const rename = (value: string) =>
    dispatch(
      edit([
        { type: 'set', field: 'name', value },
        { type: 'step.set', step: step.id, field: 'name', value },
      ]),
    );
  return (
    <>
      <Link to={back} className="max-w-44 shrink-0 truncate text-ink-2 hover:underline">
        {template ? 'Templates' : (about?.person?.name ?? doc.name)} /
      </Link>
      <h1 className="min-w-0 truncate text-[17px] font-bold">
        {template ? <NameInPlace label="Name of the template" name={doc.name} save={rename} /> : step.name || 'Email'}
      </h1>
    </>
  );
}

/** Where one is, what can be opened, what is to fix, and the way back. */
export function ComposerHeader({
  findings,
  open,
}: {
  findings: readonly Finding[] | undefined;
  open: (what: Opened) => void;
}) {
  const { id, doc, step } = useComposer();
  const { data: about } = useSequenceQuery(id);
  const reader = about?.person ?? null;
  const template = about?.template != null;
  const oneOff = isOneOff(doc);
  const plan = `/sequences/${id}?${oneOff ? 'email' : 'select'}=${step.id}`;
  const back = reader ? `/people/${reader.id}` : template ? '/library' : plan;
  const backWords = template ? 'Back to the library' : oneOff ? 'Back to the send' : 'Back to the plan';
  return (
    <div className="flex shrink-0 items-center gap-2 border-b border-line px-5 py-2.5">
      <Where back={back} template={template} />
      <SavedNote />
      <span className="flex-1" />
      <UndoButtons />
      <div className="flex">
        {TOOLS.map(([what, word, name]) => (
          <Button key={what} tone="quiet" aria-label={name} className="!px-2 !font-medium" onClick={() => open(what)}>
            {word}
          </Button>
        ))}
      </div>
      {/* What a template leaves to be filled in is for the email that is begun from it to mend. */}
      <Button tone={findings?.length && !template ? 'fix' : 'plain'} onClick={() => open('checks')}>
        <ListChecks size={16} aria-hidden="true" />
        {template ? 'Checks' : toFix(findings)}
      </Button>
      <Button onClick={() => open('test')}>
        <Send size={15} aria-hidden="true" />
        Send a test
      </Button>
      {reader ? (
        <SendLetter id={id} person={reader} />
      ) : (
        <Link to={back} className={buttonClass('main')}>
          {backWords}
        </Link>
      )}
    </div>
  );
}
