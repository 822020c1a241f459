import { Select } from '../../ui/index.tsx';
import { Line, useSet, type Of } from './parts.tsx';
import { Picture } from './picture.tsx';

/** A picture with a title, some words and a link. */
export function ArticlePanel({ block }: { block: Of<'article'> }) {
  const set = useSet(block);
  return (
    <>
      <Picture block={block} label="Picture" shown={block.side === 'above' ? 536 : 180} />
      {block.file && <Line block={block} field="alt" label="Alt text" part="alt text" value={block.alt} />}
      <Select label="The picture stands" value={block.side} onChange={(e) => set('side', e.target.value)}>
        <option value="left">left of the words</option>
        <option value="right">right of the words</option>
        <option value="above">above them</option>
      </Select>
      <Line block={block} field="title" label="Title" part="title" value={block.title} />
      <Line block={block} field="summary" label="A few words" part="summary" value={block.summary} />
      <Line block={block} field="address" label="Address" part="address" value={block.address} placeholder="https://" />
      <Line block={block} field="label" label="Words of the link" part="label" value={block.label} />
    </>
  );
}
