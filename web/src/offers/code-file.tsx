import { Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import type { CodesAnswer } from '@ascenso/contracts';
import { sentence, useImportCodesMutation } from '../app/api.ts';
import { Button, number } from '../ui/index.tsx';

/** Takes codes from a file: all of them, or told line by line why not. */
export function CodeFile({ id }: { id: string }) {
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [told, setTold] = useState<CodesAnswer | null>(null);
  const [send, { isLoading }] = useImportCodesMutation();
  const go = async (chosen: File, skip: boolean) => {
    const answer = await send({ id, file: chosen, skip });
    if (answer.error) return void toast.error(sentence(answer.error));
    setFile(chosen);
    setTold(answer.data);
    if (answer.data.added > 0) toast.success(`${number(answer.data.added)} codes added.`);
  };
  const refused = told?.refusedCount ?? 0;
  return (
    <div className="flex flex-col gap-2">
      <input
        ref={input}
        type="file"
        accept=".csv,text/csv,text/plain"
        aria-label="File with codes"
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = '';
          if (f) void go(f, false);
        }}
      />
      <Button disabled={isLoading} onClick={() => input.current?.click()}>
        <Upload size={15} aria-hidden="true" />
        {isLoading ? 'Reading the file …' : 'Add codes from a CSV file'}
      </Button>
      <p className="text-[13px] text-ink-2">One code in the first column of each line.</p>
      {told && refused > 0 && (
        <div role="alert" className="rounded-control bg-ochre-tint p-3 text-[13px] text-ochre-text">
          <p className="font-semibold">
            {told.added === 0 ? 'Nothing was added: ' : ''}
            {number(refused)} {refused === 1 ? 'line is' : 'lines are'} no new code.
          </p>
          <ul className="my-2 max-h-40 overflow-y-auto">
            {told.refused.map((r) => (
              <li key={r.line}>
                Line {r.line}: {r.why}
              </li>
            ))}
            {refused > told.refused.length && <li>and {number(refused - told.refused.length)} more</li>}
          </ul>
          {told.added === 0 && file && <Button onClick={() => void go(file, true)}>Add the others</Button>}
        </div>
      )}
    </div>
  );
}
