import { Choice } from '../../ui/choice.tsx';
import { useComposer } from '../context.ts';
import { Note, type Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** Which block of the library it is, and where else that stands. */
export function SharedPanel({ block }: { block: Of<'shared'> }) {
  const { around, doc } = useComposer();
  const set = useSet(block);
  const chosen = around.shared.find((s) => s.id === block.shared);
  const elsewhere = chosen?.usedIn.filter((u) => u.name !== doc.name) ?? [];
  const needed = [
    ...new Set((JSON.stringify(chosen?.blocks ?? []).match(/event\.[a-z0-9_]+/gi) ?? []).map((f) => f.slice(6))),
  ];
  const bring = around.kinds.filter((k) => needed.every((f) => k.fields.some((has) => has.name.split('.')[0] === f)));
  return (
    <>
      <Choice
        label="From the library"
        part="shared block"
        value={block.shared}
        choose={(v) => set('shared', v)}
        of={[{ value: '', label: 'choose one' }, ...around.shared.map((s) => ({ value: s.id, label: s.name }))]}
      />
      {around.shared.length === 0 && <Note>None yet: choose some blocks, then “Into the library”.</Note>}
      {chosen && (
        <Note>
          {elsewhere.length === 0 ? 'Used nowhere else.' : `Also in ${elsewhere.map((u) => `“${u.name}”`).join(', ')}.`}
        </Note>
      )}
      {needed.length > 0 && (
        <Note>
          It needs an event that brings {needed.join(', ')}:{' '}
          {bring.length === 0 ? 'none does yet' : bring.map((k) => `“${k.label}”`).join(', ')}.
        </Note>
      )}
    </>
  );
}
