import type { Block } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { useComposer } from '../context.ts';
import { FileChoice } from '../file-choice.tsx';
import { Line, useSet } from './parts.tsx';

/** An address to open: a page, a place to write to, or a file of ours. */
export function Target({ block, field, value, part }: { block: Block; field: string; value: string; part: string }) {
  const { around } = useComposer();
  const set = useSet(block);
  const isFile = value.startsWith('file:');
  return (
    <>
      <Choice
        label="It opens"
        value={isFile ? 'file' : 'address'}
        choose={(v) =>
          set(field, v === 'file' ? `file:${around.files.find((f) => !f.mime.startsWith('image/'))?.id ?? ''}` : '')
        }
        of={[
          { value: 'address', label: 'a page' },
          { value: 'file', label: 'a file of ours' },
        ]}
      />
      {isFile ? (
        <FileChoice
          files={around.files}
          label="File"
          value={value.slice(5)}
          images={false}
          choose={(id) => set(field, `file:${id}`)}
        />
      ) : (
        <Line block={block} field={field} label="Address" part={part} value={value} placeholder="https://" />
      )}
    </>
  );
}
