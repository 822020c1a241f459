import { Choice } from '../../ui/choice.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function SegmentParts({ atom, around, save }: PartsProps<'segment'>) {
  return (
    <Choice
      label="Which segment"
      value={atom.segment}
      choose={(v) => save({ ...atom, segment: v })}
      of={[{ value: '', label: 'Choose a segment …' }, ...around.segments.map((s) => ({ value: s.id, label: s.name }))]}
    />
  );
}

export const segmentRow: AtomRow<'segment'> = {
  choices: [
    { kind: 'segment', label: 'is in a segment', in: ['person', 'visit'] },
    { kind: 'no-segment', label: 'is not in a segment', in: ['person', 'visit'] },
  ],
  choiceOf: (a) => (a.in ? 'segment' : 'no-segment'),
  blank: (choice, old) => ({
    kind: 'segment',
    segment: old?.kind === 'segment' ? old.segment : '',
    in: choice === 'segment',
  }),
  Parts: SegmentParts,
};
