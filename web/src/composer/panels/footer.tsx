import { Line, Note, type Of } from './parts.tsx';

/** Why they get this. */
export function FooterPanel({ block }: { block: Of<'footer'> }) {
  return (
    <>
      <Line
        block={block}
        field="reason"
        label="Why they get this"
        part="reason"
        value={block.reason}
        placeholder="You asked for our workshop letters."
      />
      <Note>Postal address and unsubscribe link are always there. The address is set once, under Library.</Note>
    </>
  );
}
