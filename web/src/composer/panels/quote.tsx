import { Line, type Of } from './parts.tsx';

/** Who says it. */
export function QuotePanel({ block }: { block: Of<'quote'> }) {
  return (
    <Line block={block} field="by" label="Who says it" part="who says it" value={block.by} placeholder="Nobody named" />
  );
}
