import type { CodesAnswer } from '@ascenso/contracts';
import { useAct, useApp } from '../app/store.ts';
import { FileField } from '../ui/file-field.tsx';
import { Button, number } from '../ui/index.tsx';
import { cancelCodes, sendCodes, sendGoodLines, type CodeFileState } from './code-files.ts';

/** Takes codes from a file: all of them, or told line by line why not. */
export function CodeFile({ id }: { id: string }) {
  const act = useAct();
  const file = useApp((s) => s.codeFiles[id]);
  return (
    <div className="flex flex-col gap-2">
      {file?.busy ? (
        <Sending id={id} file={file} />
      ) : (
        <FileField
          label="Add codes from a CSV file"
          hint="One code in the first column of each line; drop it here"
          accept=".csv,text/csv,text/plain"
          take={([chosen]) => chosen && act(sendCodes(id, chosen, false))}
        />
      )}
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
