import { Select } from '../../ui/index.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function ListParts({ atom, around, save }: PartsProps<'list'>) {
  return (
    <Select label="Which list" value={atom.list} onChange={(e) => save({ ...atom, list: e.target.value })}>
      <option value="">Choose a list …</option>
      {around.lists.map((l) => (
        <option key={l.id} value={l.id}>
          {l.name}
        </option>
      ))}
    </Select>
  );
}

export const listRow: AtomRow<'list'> = {
  choices: [
    { kind: 'list', label: 'is on a list' },
    { kind: 'no-list', label: 'is not on a list' },
  ],
  choiceOf: (a) => (a.on ? 'list' : 'no-list'),
  blank: (choice, old) => ({ kind: 'list', list: old?.kind === 'list' ? old.list : '', on: choice === 'list' }),
  Parts: ListParts,
};
