import { Button } from './index.tsx';

/** How far something has come that takes a while, and how it is ended. It goes on when the screen is left. */
export function Progress({
  words,
  done,
  total,
  cancel,
  cancelWords = 'Cancel',
}: {
  words: string;
  done: number;
  total: number;
  cancel?: () => void;
  cancelWords?: string;
}) {
  const share = total === 0 ? 0 : Math.min(1, done / total);
  return (
    <div className="flex flex-col gap-1.5 rounded-control border border-line p-3">
      <label className="flex flex-col gap-1.5">
        {words}: {Math.floor(share * 100)}%
        <progress
          className="h-1.5 w-full appearance-none overflow-hidden rounded-full [&::-webkit-progress-bar]:bg-line [&::-webkit-progress-value]:bg-spruce"
          max={1}
          value={share}
        />
      </label>
      <div className="flex items-center justify-between gap-3">
        <p className="text-[13px] text-ink-2">You can go on elsewhere.</p>
        {cancel && <Button onClick={cancel}>{cancelWords}</Button>}
      </div>
    </div>
  );
}
