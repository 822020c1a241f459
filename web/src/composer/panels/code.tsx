import { isUnique } from '@ascenso/core';
import { useComposer } from '../context.ts';
import { Line, Note, type Of } from './parts.tsx';

/** Whose code stands in a code block. */
function CodeNote() {
  const { step, around } = useComposer();
  const offer = around.offers.find((o) => o.id === step.email.offer);
  if (!offer)
    return <Note>This email makes no offer yet: choose one above the subject, and its code stands here.</Note>;
  return (
    <Note>
      {isUnique(offer.offer)
        ? `Each reader has a code of their own of “${offer.name}”. Previews and tests show a sample.`
        : `The code of “${offer.name}”.`}
    </Note>
  );
}

/** The words around a code, and whose code it is. */
export function CodePanel({ block }: { block: Of<'code'> }) {
  return (
    <>
      <Line
        block={block}
        field="label"
        label="Words above the code"
        part="label"
        value={block.label}
        placeholder="Your code"
      />
      <Line block={block} field="note" label="Words below it" part="note" value={block.note} placeholder="nothing" />
      <CodeNote />
    </>
  );
}
