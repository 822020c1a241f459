import { useContext } from 'react';
import type { Block } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { SavedText } from '../../ui/saved-text.tsx';
import { useComposer } from '../context.ts';
import { FieldChoices } from '../field-picker.tsx';
import { FileChoice } from '../file-choice.tsx';
import { addressOf, LEADS, leadsOf, wordsOf, type Leads } from '../leads-to.ts';
import { Line } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** Where a block leads: a page, a file of ours, an email or a call to somebody, or an address that the reader's own data hold. */
export function Target({
  block,
  field,
  value,
  part,
  label = 'It opens',
}: {
  block: Block;
  field: string;
  value: string;
  part: string;
  label?: string;
}) {
  const { around } = useComposer();
  const fields = useContext(FieldChoices);
  const set = useSet(block);
  const leads = leadsOf(value);
  const first: Record<Leads, string> = {
    page: '',
    file: around.files.find((f) => !f.mime.startsWith('image/'))?.id ?? '',
    email: '',
    phone: '',
    field: fields[0]?.path ?? '',
  };
  const put = (words: string) => set(field, addressOf(leads, words));
  return (
    <>
      <Choice
        label={label}
        value={leads}
        choose={(v) => set(field, addressOf(v as Leads, first[v as Leads]))}
        of={Object.entries(LEADS).map(([v, label]) => ({ value: v, label }))}
      />
      {leads === 'file' ? (
        <FileChoice files={around.files} label="File" value={wordsOf(value)} images={false} choose={put} />
      ) : leads === 'field' ? (
        <Choice
          label="Field"
          value={wordsOf(value)}
          choose={put}
          of={fields.map((f) => ({ value: f.path, label: f.sample ? `${f.label}: ${f.sample}` : f.label }))}
        />
      ) : leads === 'page' ? (
        <Line block={block} field={field} label="Address" part={part} value={value} placeholder="https://" />
      ) : (
        <label data-part={part} className="flex flex-col gap-1 text-[12px] text-ink-2">
          {leads === 'email' ? 'Email address' : 'Phone number'}
          <SavedText
            label={leads === 'email' ? 'Email address' : 'Phone number'}
            value={wordsOf(value)}
            placeholder={leads === 'email' ? 'hello@foldwell.example' : '+351 210 000 000'}
            save={put}
          />
        </label>
      )}
    </>
  );
}
