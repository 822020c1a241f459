import type { Block } from '@ascenso/core';
import { Select } from '../../ui/index.tsx';
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
      <Select
        label="It opens"
        value={isFile ? 'file' : 'address'}
        onChange={(e) =>
          set(
            field,
            e.target.value === 'file' ? `file:${around.files.find((f) => !f.mime.startsWith('image/'))?.id ?? ''}` : '',
          )
        }
      >
        <option value="address">a page</option>
        <option value="file">a file of ours</option>
      </Select>
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
