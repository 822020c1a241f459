import { lazy, Suspense } from 'react';
import { Dialog } from '../ui/index.tsx';

const Picker = lazy(() => import('./emoji-inner.tsx'));

/** A choice of emoji, with a search; what is picked is the character itself. */
export function EmojiDialog({ onPick, onClose }: { onPick: (emoji: string) => void; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} title="Emoji">
      <Suspense fallback={<p className="text-ink-2">Opening them …</p>}>
        <Picker
          pick={(emoji) => {
            onPick(emoji);
            onClose();
          }}
        />
      </Suspense>
    </Dialog>
  );
}
