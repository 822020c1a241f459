import { Px, type Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** How much room. */
export function SpacerPanel({ block }: { block: Of<'spacer'> }) {
  const set = useSet(block);
  return <Px label="Height" value={block.height} save={(v) => v !== null && set('height', v)} />;
}
