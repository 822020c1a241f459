import { Field } from '../../ui/index.tsx';
import { Line, type Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** What is shown of the sender. */
export function SignaturePanel({ block }: { block: Of<'signature'> }) {
  const set = useSet(block);
  return (
    <>
      <Line
        block={block}
        field="greeting"
        label="Words above the name"
        part="greeting"
        value={block.greeting}
        placeholder="Until tomorrow,"
      />
      <Field label="Shows of the sender, where it is known">
        {() => (
          <div data-part="what it shows" className="flex flex-col gap-1">
            {(['photo', 'role', 'phone', 'page'] as const).map((k) => (
              <label key={k} className="flex items-center gap-2 capitalize">
                <input
                  type="checkbox"
                  checked={block.shows[k]}
                  onChange={(e) => set('shows', { ...block.shows, [k]: e.target.checked })}
                />
                {k}
              </label>
            ))}
          </div>
        )}
      </Field>
    </>
  );
}
