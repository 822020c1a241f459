import { useState } from 'react';
import { toast } from 'sonner';
import type { FollowedLink } from '@ascenso/contracts';
import { addressFault, contentOf, isUntracked, linkTarget } from '@ascenso/core';
import { sentence } from '../app/api.ts';
import { useFollowLinksMutation } from './endpoints.ts';
import { Button, Chip, Dialog } from '../ui/index.tsx';
import { useComposer } from './context.ts';

const isUnsubscribe = (address: string) => /^\s*\{\{\s*links\./.test(address);

/** What can be said of an address without a network. */
function verdict(
  address: string,
  target: string,
  files: readonly { id: string; name: string }[],
): { words: string; bad: boolean } {
  const fault = addressFault(address, files);
  if (fault) return { words: fault.message, bad: true };
  if (isUnsubscribe(address)) return { words: 'Our own unsubscribe address', bad: false };
  if (address.startsWith('file:'))
    return {
      words: `Our file “${files.find((f) => f.id === address.slice(5))?.name}”, downloads counted per person`,
      bad: false,
    };
  if (isUntracked(address)) return { words: 'Opens the mail program or the telephone; not tracked', bad: false };
  if (target === '') return { words: 'Empty for this reader: they would get a link that opens nothing', bad: true };
  return { words: target, bad: false };
}

interface Row {
  block: string | null;
  label: string;
  target: string;
  words: string;
  bad: boolean;
  tracked: boolean;
}

/** All links of the email in one list: where each goes for this reader, tracked or not, with campaign parameters. */
export function LinksDialog({ onClose }: { onClose: () => void }) {
  const { step, around, reader, select } = useComposer();
  const [follow, { isLoading }] = useFollowLinksMutation();
  const [followed, setFollowed] = useState<Record<string, FollowedLink>>({});
  const rows = contentOf(step.email).links.map((l): Row => {
    const target = linkTarget(l.address, reader.context, around.style.campaign);
    return {
      block: l.block,
      label: l.label || 'Link',
      target,
      ...verdict(l.address, target, around.files),
      tracked: !isUntracked(l.address) && !isUnsubscribe(l.address),
    };
  });
  // What opens no page cannot be followed.
  const addresses = [...new Set(rows.flatMap((r) => (r.tracked && r.target !== '' ? [r.target] : [])))];
  const ask = async () => {
    const answer = await follow(addresses);
    if (answer.error) return void toast.error(sentence(answer.error));
    setFollowed(Object.fromEntries(answer.data.links.map((l) => [l.address, l])));
  };
  return (
    <Dialog open onClose={onClose} title="Links of this email" wide>
      {rows.length === 0 && <p className="text-ink-2">No link yet.</p>}
      <ul className="flex flex-col divide-y divide-line">
        {rows.map((row, i) => (
          <LinkRow
            key={i}
            row={row}
            followed={followed[row.target]}
            onGo={() => {
              if (row.block) select(row.block);
              onClose();
            }}
          />
        ))}
      </ul>
      {addresses.length > 0 && (
        <div className="mt-3 flex items-center gap-3">
          <Button disabled={isLoading} onClick={() => void ask()}>
            {isLoading ? 'Following …' : 'Follow those that are ours'}
          </Button>
          <p className="text-[13px] text-ink-2">Our pages and files, and the simulated shop. Nothing is counted.</p>
        </div>
      )}
      <p className="mt-3 text-ink-2">
        {Object.values(around.style.campaign).some((c) => c !== '')
          ? 'Campaign parameters come from the house style. An address that has its own keeps them.'
          : 'No campaign parameters: set them under Library, House style.'}
      </p>
    </Dialog>
  );
}

function LinkRow({ row, followed, onGo }: { row: Row; followed: FollowedLink | undefined; onGo: () => void }) {
  const wrong = followed?.state === 'broken' || followed?.state === 'personal';
  return (
    <li className="flex items-start gap-3 py-2">
      <div className="min-w-0 flex-1">
        <button type="button" onClick={onGo} className="font-semibold hover:underline">
          {row.label}
        </button>
        <p className={`break-all ${row.bad ? 'text-brick' : 'text-ink-2'}`}>{row.words}</p>
        {followed && (
          <p role={wrong ? 'alert' : undefined} className={`text-[13px] ${wrong ? 'text-brick' : 'text-ink-2'}`}>
            {followed.words}
          </p>
        )}
      </div>
      {row.bad || wrong ? (
        <Chip tone="error">Fix</Chip>
      ) : row.tracked ? (
        <Chip tone="live">Tracked</Chip>
      ) : (
        <Chip tone="draft">Not tracked</Chip>
      )}
    </li>
  );
}
