import { Line, Px, type Of } from './parts.tsx';
import { useSet } from '../use-set.ts';
import { Picture } from './picture.tsx';
import { Target } from './target.tsx';

/** A picture: from the library or an address, with its alt text, link and width. */
export function ImagePanel({ block }: { block: Of<'image'> }) {
  const set = useSet(block);
  return (
    <>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={block.sender === true}
          onChange={(e) => set('sender', e.target.checked ? true : null)}
        />
        The photo of whoever it is from
      </label>
      {!block.sender && <Picture block={block} label="Picture" shown={block.width} />}
      {!block.file && !block.sender && (
        <Line
          block={block}
          field="address"
          label="Or from an address"
          part="picture address"
          value={block.address ?? ''}
          placeholder="https:// or a merge field"
        />
      )}
      <Line
        block={block}
        field="alt"
        label="Alt text"
        part="alt text"
        value={block.alt}
        placeholder={block.sender ? 'the sender’s name' : 'What the picture shows'}
      />
      <Target block={block} field="link" value={block.link} part="link" label="It leads to" />
      <Px label="Width" value={block.width} save={(v) => v !== null && set('width', v)} />
    </>
  );
}
