import { attributeChoices, blankTest, FieldTestParts } from '../field-tests.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function AttributeParts({ atom, around, save }: PartsProps<'attribute'>) {
  return (
    <div className="flex items-center gap-1">
      <FieldTestParts test={atom.test} fields={attributeChoices(around)} save={(test) => save({ ...atom, test })} />
    </div>
  );
}

export const attributeRow: AtomRow<'attribute'> = {
  choices: [{ kind: 'attribute', label: 'has an attribute that …' }],
  choiceOf: () => 'attribute',
  blank: (_, __, { around }) => ({ kind: 'attribute', test: blankTest(attributeChoices(around)) }),
  Parts: AttributeParts,
};
