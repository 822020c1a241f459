import type { Editor } from '@tiptap/core';
import { useEffect, useState } from 'react';
import type { Condition } from '@ascenso/core';
import { ConditionEditor } from '../../conditions/index.ts';
import { Button, Dialog, TextField } from '../../ui/index.tsx';
import { useComposer } from '../context.ts';

/** Where a stretch of text leads. */
export function LinkDialog({ editor, open, onClose }: { editor: Editor; open: boolean; onClose: () => void }) {
  const [href, setHref] = useState('');
  useEffect(() => {
    if (open) setHref(String(editor.getAttributes('link').href ?? ''));
  }, [open, editor]);
  const apply = () => {
    const chain = editor.chain().focus().extendMarkRange('link');
    (href.trim() ? chain.setLink({ href: href.trim() }) : chain.unsetLink()).run();
    onClose();
  };
  return (
    <Dialog open={open} onClose={onClose} title="Link">
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          apply();
        }}
      >
        <TextField
          label="Address"
          placeholder="https://foldwell.example/kits"
          value={href}
          onChange={(e) => setHref(e.target.value)}
        />
        <div className="flex justify-end">
          <Button tone="main" type="submit">
            {href.trim() ? 'Set the link' : 'Take the link out'}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** A stretch that only some see: who, and what the others read instead. */
export function OnlyDialog({ editor, onClose }: { editor: Editor; onClose: () => void }) {
  const { doc } = useComposer();
  const now = editor.getAttributes('only') as { condition?: Condition; otherwise?: string };
  const [condition, setCondition] = useState<Condition | null>(now.condition ?? null);
  const [otherwise, setOtherwise] = useState(now.otherwise ?? '');
  const apply = () => {
    const chain = editor.chain().focus().extendMarkRange('only');
    (condition ? chain.setMark('only', { condition, otherwise }) : chain.unsetMark('only')).run();
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="A stretch for some">
      <div className="flex flex-col gap-3">
        <ConditionEditor
          value={condition}
          scope="visit"
          doc={doc}
          sentence={(words) => `Only whoever ${words} reads these words.`}
          none="Everyone reads these words."
          save={setCondition}
        />
        {condition && (
          <TextField
            label="The others read instead"
            placeholder="nothing"
            value={otherwise}
            onChange={(e) => setOtherwise(e.target.value)}
          />
        )}
        <div className="flex justify-end">
          <Button tone="main" onClick={apply}>
            {condition ? 'Only for them' : 'For everyone'}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
