import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { blockTitle, findBlock, findStep, walkBlocks } from '@ascenso/core';
import { useSurroundings } from '../app/around.ts';
import { sentence } from '../app/api.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { Button, EmailFrame, Empty } from '../ui/index.tsx';
import { ComposerContext, type Composer } from './context.ts';
import { useRendered } from './preview.ts';
import { InboxRow } from './previews.tsx';
import { ReaderBar, useNextPersonKey, useReader } from './reader.tsx';
import { ReviewPanel } from './review.tsx';

/** An email to be read and commented on: nothing here can change it, so no right to edit is needed. */
export function ReviewScreen() {
  const { id = '', step: stepId = '' } = useParams();
  const { data: about, error } = useSequenceQuery(id);
  const around = useSurroundings();
  const [block, setBlock] = useState<string | null>(null);
  const doc = about?.draft ?? null;
  const found = doc ? findStep(doc, stepId)?.step : undefined;
  const step = found?.kind === 'email' ? found : null;
  const reader = useReader(doc, around, step);
  useNextPersonKey(reader);
  const rendered = useRendered(step?.email ?? null, around, reader.reading, doc?.list === null);
  const composer = useMemo<Composer | null>(() => {
    if (!doc || !step || !around) return null;
    const selected = block ? (findBlock(step.email.blocks, block)?.block ?? null) : null;
    return {
      id,
      doc,
      step,
      around,
      reader,
      selected,
      chosen: new Set(block ? [block] : []),
      select: setBlock,
      show: setBlock,
      write: setBlock,
      offer: () => undefined,
      peek: () => undefined,
    };
  }, [doc, step, around, id, block, reader]);
  if (error) return <Empty text={sentence(error)} />;
  if (!doc || !around) return <p className="p-8 text-ink-2">Opening the email …</p>;
  if (!step || !composer) return <Empty text="This email is no longer in the sequence." />;
  const sender = around.senders.find((s) => s.id === step.email.sender) ?? around.senders.find((s) => s.isDefault);
  return (
    <ComposerContext.Provider value={composer}>
      <div className="flex min-h-0 flex-1 flex-col">
        <div className="flex flex-wrap items-center gap-3 border-b border-line px-5 py-2.5">
          <span className="text-ink-2">Review of {doc.name} /</span>
          <h1 className="text-[17px] font-bold">{step.name}</h1>
          <span className="flex-1" />
          <ReaderBar reader={reader} around={around} />
          <Link to={`/sequences/${id}/emails/${step.id}`} className="font-semibold text-spruce hover:underline">
            Open in the composer
          </Link>
        </div>
        <div className="grid min-h-0 flex-1 grid-cols-1 gap-4 overflow-auto bg-[#e9e4d8] p-4 md:grid-cols-[minmax(0,1fr)_24rem]">
          <div className="flex min-h-[32rem] flex-col bg-white">
            {rendered && (
              <>
                <InboxRow sender={sender?.name ?? ''} rendered={rendered} wide />
                {rendered.html ? (
                  <EmailFrame title="The email" html={rendered.html} className="w-full flex-1" />
                ) : (
                  <pre className="p-5 whitespace-pre-wrap">{rendered.text}</pre>
                )}
              </>
            )}
          </div>
          <div className="flex flex-col gap-3 rounded-sheet bg-sheet p-4">
            <div>
              <p className="mb-1 text-[12px] text-ink-2">Comment on</p>
              <div className="flex flex-wrap gap-1">
                {walkBlocks(step.email.blocks).map(({ block: b }) => (
                  <Button
                    key={b.id}
                    className="!min-h-7 !px-2 !py-0.5 text-[12px]"
                    aria-pressed={block === b.id}
                    tone={block === b.id ? 'main' : 'plain'}
                    onClick={() => setBlock(block === b.id ? null : b.id)}
                  >
                    {blockTitle(b)}
                  </Button>
                ))}
              </div>
            </div>
            <ReviewPanel />
          </div>
        </div>
      </div>
    </ComposerContext.Provider>
  );
}
