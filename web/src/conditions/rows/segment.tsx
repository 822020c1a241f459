import { Select } from '../../ui/index.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function SegmentParts({ atom, around, save }: PartsProps<'segment'>) {
  return (
    <Select label="Which segment" value={atom.segment} onChange={(e) => save({ ...atom, segment: e.target.value })}>
      <option value="">Choose a segment …</option>
      {around.segments.map((s) => (
        <option key={s.id} value={s.id}>
          {s.name}
        </option>
      ))}
    </Select>
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
