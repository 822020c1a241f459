import { Choice } from '../../ui/choice.tsx';
import { Line, useSet, type Of } from './parts.tsx';
import { Picture } from './picture.tsx';

/** A picture with a title, some words and a link. */
export function ArticlePanel({ block }: { block: Of<'article'> }) {
  const set = useSet(block);
  return (
    <>
      <Picture block={block} label="Picture" shown={block.side === 'above' ? 536 : 180} />
      {block.file && <Line block={block} field="alt" label="Alt text" part="alt text" value={block.alt} />}
      <Choice
        label="The picture stands"
        value={block.side}
        choose={(v) => set('side', v)}
        of={[
          { value: 'left', label: 'left of the words' },
          { value: 'right', label: 'right of the words' },
          { value: 'above', label: 'above them' },
        ]}
      />
      <Line block={block} field="title" label="Title" part="title" value={block.title} />
      <Line block={block} field="summary" label="A few words" part="summary" value={block.summary} />
      <Line block={block} field="address" label="Address" part="address" value={block.address} placeholder="https://" />
      <Line block={block} field="label" label="Words of the link" part="label" value={block.label} />
    </>
  );
}
