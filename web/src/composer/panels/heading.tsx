import { Choice } from '../../ui/choice.tsx';
import { Line, type Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** A heading and its size. */
export function HeadingPanel({ block }: { block: Of<'heading'> }) {
  const set = useSet(block);
  return (
    <>
      <Line block={block} field="text" label="Heading" part="heading" value={block.text} />
      <Choice
        label="Size"
        value={block.level}
        choose={(v) => set('level', Number(v))}
        of={[
          { value: 1, label: 'Title' },
          { value: 2, label: 'Heading' },
        ]}
      />
    </>
  );
}
