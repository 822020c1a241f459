import { Choice } from '../../ui/choice.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function SequenceParts({ atom, around, save }: PartsProps<'sequence'>) {
  return (
    <>
      <Choice
        label={atom.is ? 'They' : 'They did not'}
        value={atom.state}
        choose={(state) => save({ ...atom, state })}
        of={[
          { value: 'inside', label: atom.is ? 'are inside' : 'stand inside' },
          { value: 'ended', label: atom.is ? 'came to the end of' : 'come to the end of' },
          { value: 'goal', label: atom.is ? 'reached the goal of' : 'reach the goal of' },
        ]}
      />
      <Choice
        label="Which sequence"
        value={atom.sequence}
        choose={(sequence) => save({ ...atom, sequence })}
        none="Choose a sequence …"
        of={around.sequences.map((s) => ({ value: s.id, label: s.name }))}
      />
    </>
  );
}

export const sequenceRow: AtomRow<'sequence'> = {
  choices: [
    { kind: 'sequence', label: 'is inside, or went through, a sequence' },
    { kind: 'no-sequence', label: 'is not inside, or did not go through, a sequence' },
  ],
  choiceOf: (a) => (a.is ? 'sequence' : 'no-sequence'),
  blank: (choice, old) => ({
    ...(old?.kind === 'sequence' ? old : { kind: 'sequence', sequence: '', state: 'inside' }),
    is: choice === 'sequence',
  }),
  Parts: SequenceParts,
};
