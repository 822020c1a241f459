import { Line, type Of } from './parts.tsx';
import { Target } from './target.tsx';

/** The words of a button and what it opens. */
export function ButtonPanel({ block }: { block: Of<'button'> }) {
  return (
    <>
      <Line
        block={block}
        field="label"
        label="Words on the button"
        part="label"
        value={block.label}
        placeholder="Get the guide"
      />
      <Target block={block} field="address" value={block.address} part="address" />
    </>
  );
}
