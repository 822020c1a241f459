import type { Editor } from '@tiptap/core';
import { useContext, useEffect, useState } from 'react';
import type { Condition } from '@ascenso/core';
import { ConditionEditor } from '../../conditions/index.ts';
import { Button, Dialog, TextField } from '../../ui/index.tsx';
import { Choice } from '../../ui/choice.tsx';
import { useComposer } from '../context.ts';
import { FieldChoices } from '../field-picker.tsx';
import { addressOf, LEADS, leadsOf, wordsOf, type Leads } from '../leads-to.ts';

const WORDS: Record<'page' | 'email' | 'phone', { label: string; placeholder: string }> = {
  page: { label: 'Address', placeholder: 'https://foldwell.example/kits' },
  email: { label: 'Email address', placeholder: 'hello@foldwell.example' },
  phone: { label: 'Phone number', placeholder: '+351 210 000 000' },
};

/** Where a stretch of text leads. */
export function LinkDialog({ editor, open, onClose }: { editor: Editor; open: boolean; onClose: () => void }) {
  const { around } = useComposer();
  const fields = useContext(FieldChoices);
  const [leads, setLeads] = useState<Leads>('page');
  const [words, setWords] = useState('');
  useEffect(() => {
    if (!open) return;
    const href = String(editor.getAttributes('link').href ?? '');
    setLeads(leadsOf(href));
    setWords(wordsOf(href));
  }, [open, editor]);
  const files = around.files.filter((f) => !f.mime.startsWith('image/'));
  const choose = (to: Leads) => {
    setLeads(to);
    setWords(to === 'file' ? (files[0]?.id ?? '') : to === 'field' ? (fields[0]?.path ?? '') : '');
  };
  const apply = () => {
    const chain = editor.chain().focus().extendMarkRange('link');
    (words.trim() ? chain.setLink({ href: addressOf(leads, words) }) : chain.unsetLink()).run();
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
        <Choice
          label="It leads to"
          value={leads}
          choose={(v) => choose(v as Leads)}
          of={Object.entries(LEADS).map(([value, label]) => ({ value, label }))}
        />
        {leads === 'file' ? (
          <Choice
            label="File"
            value={words}
            choose={setWords}
            none="Choose a file …"
            of={files.map((f) => ({ value: f.id, label: f.name }))}
          />
        ) : leads === 'field' ? (
          <Choice
            label="Field"
            value={words}
            choose={setWords}
            of={fields.map((f) => ({ value: f.path, label: f.sample ? `${f.label}: ${f.sample}` : f.label }))}
          />
        ) : (
          <TextField {...WORDS[leads]} value={words} onChange={(e) => setWords(e.target.value)} />
        )}
        <div className="flex justify-end">
          <Button tone="main" type="submit">
            {words.trim() ? 'Set the link' : 'Take the link out'}
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
