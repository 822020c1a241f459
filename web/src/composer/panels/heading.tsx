import { Select } from '../../ui/index.tsx';
import { Line, useSet, type Of } from './parts.tsx';

/** A heading and its size. */
export function HeadingPanel({ block }: { block: Of<'heading'> }) {
  const set = useSet(block);
  return (
    <>
      <Line block={block} field="text" label="Heading" part="heading" value={block.text} />
      <Select label="Size" value={block.level} onChange={(e) => set('level', Number(e.target.value))}>
        <option value={1}>Title</option>
        <option value={2}>Heading</option>
      </Select>
    </>
  );
}
