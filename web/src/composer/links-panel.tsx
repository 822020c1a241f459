import { contentOf, isUntracked, linkTarget } from '@ascenso/core';
import { addressFault } from '@ascenso/core';
import { Chip, Dialog } from '../ui/index.tsx';
import { useComposer } from './context.ts';

/** What can be said of an address without a network. */
function verdict(
  address: string,
  target: string,
  files: readonly { id: string; name: string }[],
): { words: string; bad: boolean } {
  const fault = addressFault(address, files);
  if (fault) return { words: fault.message, bad: true };
  if (/^\s*\{\{\s*links\./.test(address)) return { words: 'Our own unsubscribe address', bad: false };
  if (address.startsWith('file:'))
    return {
      words: `Our file “${files.find((f) => f.id === address.slice(5))?.name}”, downloads counted per person`,
      bad: false,
    };
  if (isUntracked(address)) return { words: 'Opens the mail program or the telephone; not tracked', bad: false };
  if (target === '') return { words: 'Empty for this reader: they would get a link that opens nothing', bad: true };
  return { words: target, bad: false };
}

/** All links of the email in one list: where each goes for this reader, tracked or not, with campaign parameters. */
export function LinksDialog({ onClose }: { onClose: () => void }) {
  const { step, around, reader, select } = useComposer();
  const { links } = contentOf(step.email);
  const used = Object.values(around.style.campaign).some((c) => c !== '');
  return (
    <Dialog open onClose={onClose} title="Links of this email" wide>
      {links.length === 0 && <p className="text-ink-2">No link yet.</p>}
      <ul className="flex flex-col divide-y divide-line">
        {links.map((l, i) => {
          const { words, bad } = verdict(
            l.address,
            linkTarget(l.address, reader.context, around.style.campaign),
            around.files,
          );
          const tracked = !isUntracked(l.address) && !/^\s*\{\{\s*links\./.test(l.address);
          return (
            <li key={i} className="flex items-start gap-3 py-2">
              <div className="min-w-0 flex-1">
                <button
                  type="button"
                  onClick={() => {
                    if (l.block) select(l.block);
                    onClose();
                  }}
                  className="font-semibold hover:underline"
                >
                  {l.label || 'Link'}
                </button>
                <p className={`break-all ${bad ? 'text-brick' : 'text-ink-2'}`}>{words}</p>
              </div>
              {bad ? (
                <Chip tone="error">Fix</Chip>
              ) : tracked ? (
                <Chip tone="live">Tracked</Chip>
              ) : (
                <Chip tone="draft">Not tracked</Chip>
              )}
            </li>
          );
        })}
      </ul>
      <p className="mt-3 text-ink-2">
        {used
          ? 'Campaign parameters come from the house style. An address that has its own keeps them.'
          : 'No campaign parameters: set them under Library, House style.'}
      </p>
    </Dialog>
  );
}
