import { useState } from 'react';
import { toast } from 'sonner';
import { sharedOf } from '@ascenso/contracts';
import { blockTitle, contentSign, findBlock, momentWords, zoneOf } from '@ascenso/core';
import { useApproveMutation, useCommentMutation, useResolveMutation } from './endpoints.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useReviewQuery } from './endpoints.ts';
import { Button, Chip, Dialog, inputClass } from '../ui/index.tsx';
import { useComposer } from './context.ts';

/** What colleagues say, block by block, and whether the email is approved as it stands. */
export function ReviewPanel() {
  const { id, step, around, selected, select } = useComposer();
  const { data } = useReviewQuery({ id, step: step.id });
  const { data: me } = useMeQuery();
  const [comment] = useCommentMutation();
  const [resolve] = useResolveMutation();
  const [approve] = useApproveMutation();
  const [text, setText] = useState('');
  const [whole, setWhole] = useState(false);
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const here = { id, step: step.id };
  const told = async (sent: Promise<{ error?: unknown }>) => {
    const { error } = await sent;
    if (error) toast.error(sentence(error));
    return !error;
  };
  const say = async () => {
    if (await told(comment({ ...here, block: whole ? null : (selected?.id ?? null), text }))) setText('');
  };
  const approval = data?.approval;
  const stands = approval?.sign === contentSign(step.email, sharedOf(around));
  const words = !approval
    ? 'Nobody has been asked yet.'
    : approval.status === 'asked'
      ? `${approval.by} asks for approval.`
      : stands
        ? `Approved by ${approval.by}, ${momentWords(zone, approval.at)}.`
        : `Approved by ${approval.by}, but changed since.`;
  return (
    <div>
      <div className="mb-3 flex flex-wrap items-center gap-2 rounded-control bg-paper-2 px-3 py-2">
        <p className="min-w-40 flex-1">{words}</p>
        {approval?.status === 'approved' && stands && <Chip tone="live">Approved</Chip>}
        <Button
          onClick={() =>
            void navigator.clipboard
              .writeText(`${location.origin}/review/${id}/${step.id}`)
              .then(() => toast('The link is copied: whoever is of the team can read and comment.'))
          }
        >
          Copy the review link
        </Button>
        <Button onClick={() => void told(approve({ ...here, status: 'asked' }))}>Ask for approval</Button>
        <Button
          tone="main"
          disabled={approval?.status === 'approved' && stands}
          onClick={() => void told(approve({ ...here, status: 'approved' }))}
        >
          Approve as it is
        </Button>
      </div>
      <ul className="flex flex-col divide-y divide-line">
        {(data?.comments ?? []).map((c) => {
          const block = c.block ? findBlock(step.email.blocks, c.block)?.block : undefined;
          return (
            <li key={c.id} className={`flex items-start gap-3 py-2 ${c.resolvedAt ? 'text-ink-2' : ''}`}>
              <div className="min-w-0 flex-1">
                <p className="text-[12px] text-ink-2">
                  {c.by}, {momentWords(zone, c.at)}
                  {c.block && (
                    <>
                      {' '}
                      ·{' '}
                      <button type="button" onClick={() => block && select(block.id)} className="hover:underline">
                        {block ? blockTitle(block) : 'a block that is gone'}
                      </button>
                    </>
                  )}
                </p>
                <p className={c.resolvedAt ? 'line-through' : ''}>{c.text}</p>
              </div>
              <Button
                tone="quiet"
                onClick={() => void told(resolve({ comment: c.id, resolved: c.resolvedAt === null }))}
              >
                {c.resolvedAt ? 'Open again' : 'Resolve'}
              </Button>
            </li>
          );
        })}
        {data?.comments.length === 0 && <li className="py-2 text-ink-2">No comment yet.</li>}
      </ul>
      <form
        className="mt-3 flex flex-col gap-2 border-t border-line pt-3"
        onSubmit={(e) => {
          e.preventDefault();
          void say();
        }}
      >
        <textarea
          aria-label="Comment"
          rows={2}
          placeholder={whole || !selected ? 'About the whole email' : `About “${blockTitle(selected)}”`}
          value={text}
          onChange={(e) => setText(e.target.value)}
          className={inputClass}
        />
        <div className="flex items-center justify-between">
          <label className="flex items-center gap-2">
            <input type="checkbox" checked={whole} onChange={(e) => setWhole(e.target.checked)} />
            About the whole email
          </label>
          <Button type="submit" disabled={!text.trim()}>
            Comment
          </Button>
        </div>
      </form>
    </div>
  );
}

export function ReviewDialog({ onClose }: { onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} title="Review" wide>
      <ReviewPanel />
    </Dialog>
  );
}
