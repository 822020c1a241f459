import type { AtomRow, PartsProps } from './row.ts';
import { NameField } from '../../ui/name-field.tsx';

function TagParts({ atom, around, save }: PartsProps<'tag'>) {
  return (
    <NameField
      label="Tag"
      value={atom.tag}
      placeholder="kit-owner"
      of={around.tags}
      save={(tag) => save({ ...atom, tag: tag.trim() })}
    />
  );
}

export const tagRow: AtomRow<'tag'> = {
  choices: [
    { kind: 'tag', label: 'has a tag' },
    { kind: 'no-tag', label: 'does not have a tag' },
  ],
  choiceOf: (a) => (a.has ? 'tag' : 'no-tag'),
  blank: (choice, old) => ({ kind: 'tag', tag: old?.kind === 'tag' ? old.tag : '', has: choice === 'tag' }),
  Parts: TagParts,
};
