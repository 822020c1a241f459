import { Drama, ListChecks, Play, Redo2, Undo2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { NavLink, Outlet, useLocation, useParams } from 'react-router';
import { toast } from 'sonner';
import { behindWords, isOneOff } from '@ascenso/core';
import { useMarkMutation } from '../composer/endpoints.ts';
import { BehindDialog } from '../library/behind.tsx';
import { useFindings } from '../checking/use-findings.ts';
import { sentence } from '../app/api.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { edit, open, redo, settled, told, undo } from '../drafts/draft.ts';
import { Together, useHere } from '../drafts/together.tsx';
import { useAct, useApp } from '../app/store.ts';
import { rehearse } from '../rehearsal/rehearsing.ts';
import { StatusChip } from '../sequences/sequences.tsx';
import { OneOffChip } from '../sequences/one-off-chip.tsx';
import { Button, Chip, Dialog, Empty, IconButton } from '../ui/index.tsx';
import { FindingList, toFix } from './findings.tsx';
import { PublishDialog } from './publish-dialog.tsx';
import { ResumeDialog } from './running-dialogs.tsx';
import { SequenceMenu } from './sequence-menu.tsx';
import { NameInPlace } from '../ui/name-in-place.tsx';
import { RoomTabs } from '../ui/tabs.tsx';

/** Opens a draft in the store for as long as a screen shows it, at its plan or at an email. Answers a sentence when that fails. */
export function useDraft(id: string, step: string | null = null): { ready: boolean; problem: string | null } {
  const dispatch = useAct();
  const loaded = useApp((s) => s.draft.id === id);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    setProblem(null);
    void dispatch(open(id)).then((answer) => {
      if (answer.error) setProblem(sentence(answer.error));
    });
  }, [dispatch, id]);
  useHere(step);
  const { data: about } = useSequenceQuery(id);
  useEffect(() => {
    if (about) dispatch(told(about));
  }, [dispatch, about]);
  return { ready: loaded, problem };
}

/** Undo and redo by the keys everywhere that a draft is edited; Ctrl S keeps the draft as it is, under a name. */
export function useDraftKeys() {
  const dispatch = useAct();
  const [mark] = useMarkMutation();
  const id = useApp((s) => s.draft.id);
  useEffect(() => {
    const keep = async () => {
      await dispatch(settled());
      if (!id) return;
      const answer = await mark({ id, name: 'Kept with Ctrl S' });
      if (answer.error) toast.error(sentence(answer.error));
      else toast('Already saved: everything is, as you type. This state is kept under Versions.');
    };
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey)) return;
      const key = e.key.toLowerCase();
      if (key === 's') {
        e.preventDefault();
        void keep();
      }
      if (key !== 'z' || (e.target as HTMLElement).closest('input, textarea, [contenteditable=true]')) return;
      e.preventDefault();
      dispatch(e.shiftKey ? redo() : undo());
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [dispatch, mark, id]);
}

export function SavedNote() {
  const { unsaved, waiting } = useApp((s) => s.draft);
  const typing = useApp((s) => s.typing > 0);
  return (
    <>
      <span
        role="status"
        title={waiting ?? undefined}
        className={`shrink-0 text-[12px] ${waiting === null ? 'text-ink-2' : 'font-semibold text-brick'}`}
      >
        {waiting !== null ? 'Not saved yet: trying again …' : unsaved > 0 || typing ? 'Saving …' : 'Saved'}
      </span>
      <Together />
    </>
  );
}

export function UndoButtons() {
  const dispatch = useAct();
  const { undo: back, redo: forth } = useApp((s) => s.draft);
  return (
    <>
      <IconButton name="Undo (Ctrl Z)" disabled={back === 0} onClick={() => dispatch(undo())}>
        <Undo2 size={16} />
      </IconButton>
      <IconButton name="Redo (Ctrl Shift Z)" disabled={forth === 0} onClick={() => dispatch(redo())}>
        <Redo2 size={16} />
      </IconButton>
    </>
  );
}

export function SequenceScreen() {
  const id = useParams().id as string;
  const { ready, problem } = useDraft(id);
  useDraftKeys();
  const { data: about } = useSequenceQuery(id, { refetchOnMountOrArgChange: true });
  const dispatch = useAct();
  const rehearsing = useApp((s) => s.rehearsing.open);
  const { pathname } = useLocation();
  const doc = useApp((s) => s.draft.doc);
  const revision = useApp((s) => s.draft.revision);
  const unpublished = useApp((s) => s.draft.unpublished || s.draft.unsaved > 0);
  const findings = useFindings(id);
  const [dialog, setDialog] = useState<'checks' | 'publish' | 'behind' | 'resume' | null>(null);
  if (problem) return <Empty text={problem} />;
  if (!ready || !doc || !about) return <p className="p-8 text-ink-2">Opening the sequence …</p>;
  const next = (about.liveVersion ?? 0) + 1;
  const never = about.liveVersion === null;
  const oneOff = isOneOff(doc);
  const plan = oneOff ? `/sequences/${id}/plan` : `/sequences/${id}`;
  const onPlan = pathname === plan;
  const behind = about.status === 'archived' ? [] : about.behind;
  const close = () => setDialog(null);
  return (
    <>
      <div className="flex shrink-0 flex-wrap items-center gap-2 border-b border-line bg-paper px-5 py-2.5 *:shrink-0 md:flex-nowrap print:[&>:not(h1)]:hidden">
        <NavLink to="/sequences" className="text-ink-2 hover:underline">
          Sequences /
        </NavLink>
        <h1 className="!shrink overflow-hidden">
          <NameInPlace
            label="Name of the sequence"
            name={doc.name}
            save={(value) => dispatch(edit([{ type: 'set', field: 'name', value }]))}
          />
        </h1>
        <SequenceMenu id={id} about={about} doc={doc} />
        {oneOff ? <OneOffChip about={about} /> : <StatusChip status={about.status} version={about.liveVersion} />}
        {!never && unpublished && <Chip tone="fix">Edits not published</Chip>}
        {behind.length > 0 && (
          <button type="button" title={behind.map(behindWords).join('\n')} onClick={() => setDialog('behind')}>
            <Chip tone="fix">Behind</Chip>
          </button>
        )}
        <SavedNote />
        <span className="flex-1" />
        <UndoButtons />
        <RoomTabs
          name="Views"
          rooms={[
            ...(oneOff ? [[`/sequences/${id}`, 'One-off'] as const] : []),
            [plan, 'Plan'],
            [`/sequences/${id}/calendar`, 'Calendar'],
            [`/sequences/${id}/numbers`, 'Numbers'],
          ]}
        />
        {onPlan && (
          <Button aria-pressed={rehearsing} onClick={() => dispatch(rehearse({ open: !rehearsing }))}>
            <Drama size={16} aria-hidden="true" />
            Rehearse
          </Button>
        )}
        <Button tone={findings?.length ? 'fix' : 'plain'} onClick={() => setDialog('checks')}>
          <ListChecks size={16} aria-hidden="true" />
          {toFix(findings)}
        </Button>
        {about.status === 'paused' && (
          <Button onClick={() => setDialog('resume')}>
            <Play size={15} aria-hidden="true" />
            {oneOff ? 'Let it go on' : 'Resume'}
          </Button>
        )}
        {never || unpublished || behind.length === 0 ? (
          <Button tone="main" disabled={!unpublished && !never} onClick={() => setDialog('publish')}>
            {oneOff && never
              ? 'Send it off'
              : unpublished || never
                ? `Publish version ${next}`
                : oneOff
                  ? 'Sent off'
                  : 'Published'}
          </Button>
        ) : (
          <Button tone="main" onClick={() => setDialog('behind')}>
            Publish what the house changed
          </Button>
        )}
      </div>
      <Outlet />
      <Dialog open={dialog === 'checks'} onClose={() => setDialog(null)} title="Checks" wide>
        <FindingList id={id} findings={findings ?? []} onJump={() => setDialog(null)} />
      </Dialog>
      <PublishDialog
        id={id}
        doc={doc}
        next={next}
        revision={revision}
        findings={findings ?? []}
        open={dialog === 'publish'}
        onClose={close}
      />
      <BehindDialog id={id} behind={behind} open={dialog === 'behind'} onClose={close} />
      {dialog === 'resume' && <ResumeDialog id={id} onClose={close} />}
    </>
  );
}
