import { Link } from 'react-router';
import { behindWords, type Behind } from '@ascenso/core';
import { useBehindQuery } from '../sequences/endpoints.ts';
import { useAct, useApp } from '../app/store.ts';
import { Button, Dialog, Sheet } from '../ui/index.tsx';
import { republish, stopRepublishing } from './republishing.ts';

/** What has changed, a line each. */
function Changed({ behind }: { behind: readonly Behind[] }) {
  return (
    <ul className="text-[13px] text-ink-2">
      {behind.map((b) => (
        <li key={`${b.what}${b.id}`}>{behindWords(b)}</li>
      ))}
    </ul>
  );
}

function Progress() {
  const { of, done } = useApp((s) => s.republishing);
  return (
    <div className="flex items-center gap-3 border-b border-line px-4 py-2.5">
      <label className="flex flex-1 items-center gap-3">
        <span className="tabular-nums">
          {done} of {of} published
        </span>
        <progress
          className="h-1.5 flex-1 appearance-none overflow-hidden rounded-full [&::-webkit-progress-bar]:bg-line [&::-webkit-progress-value]:bg-spruce"
          max={of}
          value={done}
        />
      </label>
      <span className="text-[13px] text-ink-2">You can go on elsewhere.</span>
      <Button onClick={stopRepublishing}>Stop</Button>
    </div>
  );
}

/** So many are shown at once; more are unfolded, so that what one came for stays in sight. */
const FEW = 3;

/** Live sequences that run without the latest changes of the house, each with what they are; nothing where there is none. */
export function BehindSheet() {
  const { data } = useBehindQuery(undefined, { refetchOnMountOrArgChange: true });
  const { busy, refused } = useApp((s) => s.republishing);
  const dispatch = useAct();
  const sequences = data?.sequences ?? [];
  const count = sequences.length;
  if (count === 0 && !busy) return null;
  return (
    <Sheet className="border-[#e6d3a6]">
      <div className="flex items-center gap-3 border-b border-line bg-ochre-tint px-4 py-2">
        <h2 className="flex-1 font-sans font-semibold text-ochre-text">
          {count === 1 ? 'A live sequence is behind' : `${count} live sequences are behind`}: what changed in the house
          does not go out with {count === 1 ? 'it' : 'them'} yet
        </h2>
        {count > 1 && (
          <Button tone="fix" disabled={busy} onClick={() => void dispatch(republish(sequences.map((s) => s.id)))}>
            Publish the changes in all {count}
          </Button>
        )}
      </div>
      {busy && <Progress />}
      <details open={count <= FEW}>
        <summary className="cursor-pointer px-4 py-2 text-ink-2">Which, and what changed</summary>
        <ul className="max-h-44 overflow-y-auto">
          {sequences.map((s) => (
            <li key={s.id} className="flex items-start gap-3 border-t border-line px-4 py-2 first:border-t-0">
              <div className="min-w-0 flex-1">
                <Link to={`/sequences/${s.id}`} className="font-semibold hover:underline">
                  {s.name}
                </Link>
                <Changed behind={s.behind} />
                {refused
                  .filter((r) => r.id === s.id)
                  .map((r) => (
                    <p key={r.id} role="alert" className="text-[13px] font-semibold text-brick">
                      {r.why}
                    </p>
                  ))}
              </div>
              <Button disabled={busy} onClick={() => void dispatch(republish([s.id]))}>
                Publish this change only
              </Button>
            </li>
          ))}
        </ul>
      </details>
      <p className="border-t border-line px-4 py-2 text-[13px] text-ink-2">
        Only this goes out: edits of a draft stay where they are, and whoever is inside goes on with the change.
      </p>
    </Sheet>
  );
}

/** The same for one sequence, from its plan. */
export function BehindDialog({
  id,
  behind,
  open,
  onClose,
}: {
  id: string;
  behind: readonly Behind[];
  open: boolean;
  onClose: () => void;
}) {
  const { busy, refused } = useApp((s) => s.republishing);
  const dispatch = useAct();
  const why = refused.find((r) => r.id === id)?.why;
  const go = async () => {
    await dispatch(republish([id]));
    onClose();
  };
  return (
    <Dialog open={open} onClose={onClose} title="What changed in the house since it was published">
      <Changed behind={behind} />
      {why && (
        <p role="alert" className="mt-2 font-semibold text-brick">
          {why}
        </p>
      )}
      <div className="mt-4 flex items-center justify-between gap-4">
        <p className="text-ink-2">Edits of the draft stay where they are. Whoever is inside goes on with the change.</p>
        <Button tone="main" disabled={busy} onClick={() => void go()}>
          Publish this change only
        </Button>
      </div>
    </Dialog>
  );
}
