import { Line, type Of } from './parts.tsx';
import { Picture } from './picture.tsx';

/** The still of a film, and where the film is. */
export function VideoPanel({ block }: { block: Of<'video'> }) {
  return (
    <>
      <Picture block={block} label="Still picture" shown={536} />
      <Line block={block} field="alt" label="Alt text" part="alt text" value={block.alt} />
      <Line
        block={block}
        field="address"
        label="Where the film is"
        part="address"
        value={block.address}
        placeholder="https://"
      />
      <Line block={block} field="label" label="Words below it" part="label" value={block.label} />
    </>
  );
}
