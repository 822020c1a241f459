import { useState } from 'react';
import { automaticText, signOf } from '@ascenso/core';
import { compiledWith } from '@ascenso/contracts';
import { edit } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { Button, Chip, Dialog, inputClass } from '../ui/index.tsx';
import { useComposer } from './context.ts';

/** The plain-text part: made from the email, or written by hand; and whether the email has changed since. */
export function PlainTextDialog({ onClose }: { onClose: () => void }) {
  const { step, around, doc } = useComposer();
  const dispatch = useAct();
  const automatic = automaticText({ ...step.email, text: null }, around.style, compiledWith(doc, around));
  const own = step.email.text ?? null;
  const [text, setText] = useState(own?.words ?? automatic);
  const drifted = own !== null && own.over !== signOf(automatic);
  const save = (value: unknown) => {
    dispatch(edit([{ type: 'email.set', step: step.id, field: 'text', value }]));
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="Plain text" wide>
      <p className="mb-3 flex items-center gap-2 text-ink-2">
        {own ? <Chip tone="data">Written by hand</Chip> : <Chip tone="live">Automatic</Chip>}
        {drifted ? (
          <span role="alert" className="text-ochre-text">
            The email has changed since this was written: see whether it still says the same.
          </span>
        ) : own ? (
          'The email has not changed since.'
        ) : (
          'Made anew with every change of the email. Write here to take it over.'
        )}
      </p>
      <div className={drifted ? 'grid grid-cols-2 gap-3' : ''}>
        <textarea
          aria-label="Plain text"
          data-part="plain text"
          rows={18}
          value={text}
          onChange={(e) => setText(e.target.value)}
          className={`${inputClass} font-mono text-[13px]`}
        />
        {drifted && (
          <div>
            <p className="mb-1 text-[12px] text-ink-2">What the email says now</p>
            <pre
              tabIndex={0}
              className="h-[22rem] overflow-auto rounded-control border border-line bg-paper-2 p-2.5 text-[13px] whitespace-pre-wrap"
            >
              {automatic}
            </pre>
          </div>
        )}
      </div>
      <div className="mt-3 flex justify-end gap-2">
        {own && <Button onClick={() => save(null)}>Back to automatic</Button>}
        <Button
          tone="main"
          disabled={text.trim() === ''}
          onClick={() => save(text.trim() === automatic.trim() ? null : { words: text, over: signOf(automatic) })}
        >
          Keep this text
        </Button>
      </div>
    </Dialog>
  );
}
