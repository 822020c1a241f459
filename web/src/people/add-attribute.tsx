import { useState, type FormEvent } from 'react';
import type { AttributeRow } from '@ascenso/contracts';
import type { Failure } from '../app/api.ts';
import { Choice } from '../ui/choice.tsx';
import { Button, Dialog, TextField } from '../ui/index.tsx';
import { ATTRIBUTE_TYPES, parted, useAddAttributeMutation } from './attribute-endpoints.ts';

/** A key made from a name: "Favourite paper" is favourite_paper. */
const keyOf = (label: string): string =>
  label
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+|_{1,60}$/g, '')
    .slice(0, 60);

/** Makes an attribute. `called` and `type` are what it begins with; `onMade` is told its key. */
export function AddAttribute({
  called = '',
  type: begun = 'text',
  onMade,
  onClose,
}: {
  called?: string;
  type?: AttributeRow['type'];
  onMade?: (key: string) => void;
  onClose: () => void;
}) {
  const [label, setLabel] = useState(called);
  const [key, setKey] = useState<string | null>(null);
  const [type, setType] = useState<AttributeRow['type'] | 'one-of'>(begun);
  const [options, setOptions] = useState('');
  const [add, { error, isLoading }] = useAddAttributeMutation();
  const problem = error as Failure | undefined;
  const submit = async (e: FormEvent) => {
    e.preventDefault();
    const made = key ?? keyOf(label);
    const answer = await add(
      type === 'one-of'
        ? { key: made, label, type: 'text', options: parted(options) }
        : { key: made, label, type, options: [] },
    );
    if (!answer.data) return;
    onMade?.(made);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title="New attribute">
      <form onSubmit={(e) => void submit(e)} className="flex flex-col gap-3">
        <TextField
          label="What is it called?"
          placeholder="Favourite paper"
          value={label}
          onChange={(e) => setLabel(e.target.value)}
          required
          autoFocus
          error={problem?.field === 'label' ? problem.message : undefined}
        />
        <TextField
          label="Key, by which emails and programs know it"
          value={key ?? keyOf(label)}
          onChange={(e) => setKey(e.target.value)}
          required
          hint="It cannot be changed later."
          error={problem?.field === 'key' ? problem.message : undefined}
        />
        <Choice
          label="Its values are"
          value={type}
          choose={setType}
          of={[
            ...(Object.keys(ATTRIBUTE_TYPES) as AttributeRow['type'][]).map((t) => ({
              value: t,
              label: ATTRIBUTE_TYPES[t],
            })),
            { value: 'one-of', label: 'one of some', note: 'chosen from a list of your own' },
          ]}
        />
        {type === 'one-of' && (
          <TextField
            label="What can it be? Parted by commas"
            placeholder="new, some, seasoned"
            value={options}
            onChange={(e) => setOptions(e.target.value)}
            required
            error={problem?.field === 'options' ? problem.message : undefined}
          />
        )}
        {problem && !['key', 'label', 'options'].includes(problem.field ?? '') && (
          <p role="alert" className="font-semibold text-brick">
            {problem.message}
          </p>
        )}
        <div className="flex justify-end">
          <Button tone="main" type="submit" disabled={isLoading}>
            Make this attribute
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
