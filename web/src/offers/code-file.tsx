import { Upload } from 'lucide-react';
import { useRef } from 'react';
import type { CodesAnswer } from '@ascenso/contracts';
import { useAct, useApp } from '../app/store.ts';
import { Button, number } from '../ui/index.tsx';
import { cancelCodes, sendCodes, sendGoodLines, type CodeFileState } from './code-files.ts';

/** Takes codes from a file: all of them, or told line by line why not. */
export function CodeFile({ id }: { id: string }) {
  const input = useRef<HTMLInputElement>(null);
  const act = useAct();
  const file = useApp((s) => s.codeFiles[id]);
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
          const chosen = e.target.files?.[0];
          e.target.value = '';
          if (chosen) act(sendCodes(id, chosen, false));
        }}
      />
      {file?.busy ? (
        <Sending id={id} file={file} />
      ) : (
        <Button onClick={() => input.current?.click()}>
          <Upload size={15} aria-hidden="true" />
          Add codes from a CSV file
        </Button>
      )}
      <p className="text-[13px] text-ink-2">One code in the first column of each line.</p>
      {file?.told && file.told.refusedCount > 0 && <Refused told={file.told} onOthers={() => act(sendGoodLines(id))} />}
    </div>
  );
}

function Sending({ id, file }: { id: string; file: CodeFileState }) {
  const share = file.size === 0 ? 1 : Math.min(1, file.sent / file.size);
  return (
    <div className="flex flex-col gap-1.5 rounded-control border border-line p-3">
      <label className="flex flex-col gap-1.5 text-[13px]">
        {share < 1
          ? `Reading “${file.name}”: ${Math.floor(share * 100)}%`
          : `Writing the last codes of “${file.name}” …`}
        <progress
          className="h-1.5 w-full appearance-none overflow-hidden rounded-full [&::-webkit-progress-bar]:bg-line [&::-webkit-progress-value]:bg-spruce"
          max={1}
          value={share}
        />
      </label>
      <div className="flex items-center justify-between gap-3">
        <p className="text-[13px] text-ink-2">You can go on elsewhere.</p>
        <Button onClick={() => cancelCodes(id)}>Cancel</Button>
      </div>
    </div>
  );
}

function Refused({ told, onOthers }: { told: CodesAnswer; onOthers: () => void }) {
  const { refused, refusedCount, added } = told;
  return (
    <div role="alert" className="rounded-control bg-ochre-tint p-3 text-[13px] text-ochre-text">
      <p className="font-semibold">
        {added === 0 ? 'Nothing was added: ' : ''}
        {number(refusedCount)} {refusedCount === 1 ? 'line is' : 'lines are'} no new code.
      </p>
      <ul className="my-2 max-h-40 overflow-y-auto">
        {refused.map((r) => (
          <li key={r.line}>
            Line {r.line}: {r.why}
          </li>
        ))}
        {refusedCount > refused.length && <li>and {number(refusedCount - refused.length)} more</li>}
      </ul>
      {added === 0 && <Button onClick={onOthers}>Add the others</Button>}
    </div>
  );
}
