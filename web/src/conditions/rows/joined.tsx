import { joinedHow, joinedWords } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { PeriodParts } from './period.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function JoinedParts({ atom, around, save }: PartsProps<'joined'>) {
  return (
    <>
      <Choice
        label="Which list"
        value={atom.list}
        choose={(list) => save({ ...atom, list })}
        none="Choose a list …"
        of={around.lists.map((l) => ({ value: l.id, label: l.name }))}
      />
      <Choice
        label="How"
        value={atom.how ?? ''}
        choose={(how) => save({ ...atom, how: how === '' ? null : how })}
        of={[{ value: '', label: 'in any way' }, ...joinedHow.map((h) => ({ value: h, label: joinedWords[h] }))]}
      />
      <div className="flex items-end gap-1">
        <Choice
          label="When"
          value={atom.within ? 'within' : 'ever'}
          choose={(when) => save({ ...atom, within: when === 'within' ? { amount: 30, unit: 'days' } : null })}
          of={[
            { value: 'ever', label: 'whenever' },
            { value: 'within', label: 'in the last …' },
          ]}
        />
        {atom.within && (
          <PeriodParts label="How many" period={atom.within} save={(within) => save({ ...atom, within })} />
        )}
      </div>
    </>
  );
}

export const joinedRow: AtomRow<'joined'> = {
  choices: [
    { kind: 'joined', label: 'joined a list, and is on it' },
    { kind: 'not-joined', label: 'did not join a list in this way' },
  ],
  choiceOf: (a) => (a.is ? 'joined' : 'not-joined'),
  blank: (choice, old) => ({
    ...(old?.kind === 'joined'
      ? old
      : { kind: 'joined', list: old?.kind === 'list' ? old.list : '', how: null, within: null }),
    is: choice === 'joined',
  }),
  Parts: JoinedParts,
};
