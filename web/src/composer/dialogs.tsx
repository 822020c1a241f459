import type { Finding } from '@ascenso/core';
import { FindingList } from '../plan/findings.tsx';
import { Dialog } from '../ui/index.tsx';
import { useComposer, type Composer } from './context.ts';
import { HistoryDialog } from './history.tsx';
import { ShareDialog, TemplatesDialog } from './into-library.tsx';
import { LinksDialog } from './links-panel.tsx';
import { PlainTextDialog } from './plain-text.tsx';
import { Gallery } from './previews.tsx';
import { useRenderedNow } from './rendering.tsx';
import { ReviewDialog } from './review.tsx';
import { SupportNote } from './support.tsx';
import { TestSend } from './test-send.tsx';
import { Seen, versionsIn } from './who-sees.tsx';

/** What lies over the composer, one at a time. */
export type Opened =
  'test' | 'checks' | 'links' | 'text' | 'templates' | 'share' | 'review' | 'history' | 'gallery' | 'seen';

function SeenDialog({ onClose, email }: { onClose: () => void; email: Composer['step']['email'] }) {
  const chains = versionsIn(email);
  return (
    <Dialog open onClose={onClose} title="Who sees what" wide>
      {chains.length === 0 && (
        <p className="text-ink-2">
          Everybody sees the same. To show a block to some people only, choose it and set “Who sees it”.
        </p>
      )}
      <div className="flex flex-col gap-4">
        {chains.map((versions, i) => (
          <Seen key={i} versions={versions} />
        ))}
      </div>
    </Dialog>
  );
}

/** What mail programs make of it as it is now. */
function Support() {
  const rendered = useRenderedNow();
  return rendered?.html ? <SupportNote html={rendered.html} /> : null;
}

export function ComposerDialogs({
  opened,
  close,
  findings,
}: {
  opened: Opened | null;
  close: () => void;
  findings: Finding[];
}) {
  const { id, step } = useComposer();
  switch (opened) {
    case 'test':
      return <TestSend onClose={close} />;
    case 'links':
      return <LinksDialog onClose={close} />;
    case 'text':
      return <PlainTextDialog onClose={close} />;
    case 'templates':
      return <TemplatesDialog onClose={close} />;
    case 'share':
      return <ShareDialog onClose={close} />;
    case 'review':
      return <ReviewDialog onClose={close} />;
    case 'history':
      return <HistoryDialog onClose={close} />;
    case 'gallery':
      return <Gallery onClose={close} />;
    case 'seen':
      return <SeenDialog onClose={close} email={step.email} />;
    case 'checks':
      return (
        <Dialog open onClose={close} title="Checks of this email" wide>
          <FindingList id={id} findings={findings} onJump={close} />
          <Support />
        </Dialog>
      );
    case null:
      return null;
  }
}
