import { Choice } from '../../ui/choice.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function ListParts({ atom, around, save }: PartsProps<'list'>) {
  return (
    <Choice
      label="Which list"
      value={atom.list}
      choose={(v) => save({ ...atom, list: v })}
      of={[{ value: '', label: 'Choose a list …' }, ...around.lists.map((l) => ({ value: l.id, label: l.name }))]}
    />
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
