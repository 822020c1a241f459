import { ChevronLeft, ChevronRight, PanelLeft, PanelRight, Users } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { findBlock, findStep, isLocked, modeOf, walkBlocks } from '@ascenso/core';
import { fieldsFor } from '@ascenso/contracts';
import { useSurroundings } from '../app/around.ts';
import { edit } from '../drafts/draft.ts';
import { readAs, useAct, useApp } from '../app/store.ts';
import { useFindings } from '../checking/use-findings.ts';
import { useDraft, useDraftKeys } from '../plan/sequence.tsx';
import { Button, buttonClass, EmailFrame, Empty, IconButton } from '../ui/index.tsx';
import { copyBlocks, duplicateBlocks, moveBlock, pasteBlocks, removeBlocks } from './actions.ts';
import { placeAfter } from './places.ts';
import { AddMenu } from './add-menu.tsx';
import { Canvas } from './canvas.tsx';
import { ComposerContext, type BlockPlace, type Composer } from './context.ts';
import { ComposerDialogs, type Opened } from './dialogs.tsx';
import { Dragging } from './dragging.tsx';
import { Envelope } from './envelope.tsx';
import { choicesFrom, FieldChoices } from './field-picker.tsx';
import { useLastSelected } from '../ui/use-last-selected.ts';
import { focusBlock, focusSettings, focusWriting, useJump } from './focus.ts';
import { ComposerHeader } from './header.tsx';
import { HtmlEditor } from './html-editor.tsx';
import { Inspector } from './inspector.tsx';
import { Outline } from './outline.tsx';
import { InboxRow, Preview } from './previews.tsx';
import { Rendering, useRenderedNow, type Peek } from './rendering.tsx';
import { ReaderBar, useNextPersonKey, useReader } from './reader.tsx';
import { ViewTabs } from '../ui/tabs.tsx';
import { useKept } from '../ui/use-kept.ts';

/** The page as it is sent, in place of the canvas. */
function AsSent({ sender }: { sender: string }) {
  const rendered = useRenderedNow();
  if (!rendered) return null;
  return (
    <div className="mx-auto flex h-full min-h-[500px] max-w-[700px] flex-col bg-white">
      <InboxRow sender={sender} rendered={rendered} wide />
      {rendered.html ? (
        <EmailFrame title="The email as it is sent" html={rendered.html} className="block w-full flex-1" />
      ) : (
        <pre className="p-5 whitespace-pre-wrap">{rendered.text}</pre>
      )}
    </div>
  );
}

export function ComposerScreen() {
  const { id = '', step: stepId = '' } = useParams();
  const { ready, problem } = useDraft(id, stepId);
  useDraftKeys();
  const doc = useApp((s) => s.draft.doc);
  const dispatch = useAct();
  const around = useSurroundings();
  const [params, setParams] = useSearchParams();
  const [view, setView] = useState<'write' | 'sent'>('write');
  const [left, setLeft] = useKept('composer-outline', ['there', 'away']);
  const [right, setRight] = useKept('composer-settings', ['there', 'away']);
  const [phone, setPhone] = useKept('composer-phone', ['small', 'large']);
  const [opened, setOpened] = useState<Opened | null>(null);
  const [offered, setOffered] = useState<BlockPlace | null>(null);
  const [others, setOthers] = useState<ReadonlySet<string>>(new Set());
  const found = doc && ready ? findStep(doc, stepId)?.step : undefined;
  const step = found?.kind === 'email' ? found : null;
  const reader = useReader(doc, around, step);
  useNextPersonKey(reader);
  const peeker = useRef<Peek>(() => undefined);
  const peek = useCallback<Peek>((block, words) => peeker.current(block, words), []);
  const findings = useFindings(id)?.filter((f) => f.place.step === stepId);
  useJump(step !== null && around !== undefined, params.get('block'), params.get('part'));
  // What a finding leads to has to be on the screen.
  const part = params.get('part');
  useEffect(() => {
    if (part !== null) setRight('there');
  }, [part, setRight]);
  const toOpen = params.get('part') === 'plain text' ? 'text' : params.get('open') === 'test' ? 'test' : null;
  useEffect(() => {
    if (toOpen) setOpened(toOpen);
  }, [toOpen]);
  const selectedId = params.get('block') ?? step?.email.blocks[0]?.id ?? null;
  const last = useLastSelected(selectedId);
  const selected = useMemo(
    () => (step && selectedId ? (findBlock(step.email.blocks, selectedId)?.block ?? null) : null),
    [step, selectedId],
  );
  const choices = useMemo(
    () => (doc && around ? choicesFrom(fieldsFor(doc, around), reader.context) : []),
    [doc, around, reader.context],
  );
  if (problem) return <Empty text={problem} />;
  if (!ready || !around) return <p className="p-8 text-ink-2">Opening the email …</p>;
  if (!step || !doc)
    return (
      <Empty text="This email is no longer in the sequence.">
        <Link className={buttonClass('main')} to={`/sequences/${id}`}>
          Back to the plan
        </Link>
      </Empty>
    );

  const { email } = step;
  const mode = modeOf(email);
  const chosen = new Set([...others, ...(selected ? [selected.id] : [])]);
  const select = (b: string, add = false) => {
    const before = last.current;
    last.current = b;
    setOthers(add && before ? new Set([...others, before]) : new Set());
    setParams({ block: b }, { replace: true });
  };
  const show = (b: string) => {
    select(b);
    focusBlock(b);
  };
  const write = (b: string) => {
    select(b);
    focusWriting(b);
  };
  const composer: Composer = {
    id,
    doc,
    step,
    around,
    reader,
    selected,
    chosen,
    select,
    show,
    write,
    offer: setOffered,
    peek,
  };
  const remove = (these: ReadonlySet<string>) => {
    const all = walkBlocks(email.blocks).map((p) => p.block.id);
    const at = all.findIndex((b) => these.has(b));
    const next = all.slice(at + 1).find((b) => !these.has(b)) ?? all[at - 1];
    if (dispatch(removeBlocks(step, these)) && next) show(next);
  };
  const withMade = (made: string | null) => made && show(made);
  const onKey = (e: KeyboardEvent) => {
    // What has the focus is meant: the selection in the address follows it a moment later.
    const meant = (e.target as HTMLElement).closest<HTMLElement>('[data-block]')?.dataset.block;
    const current = (meant ? findBlock(email.blocks, meant)?.block : undefined) ?? selected;
    const inText = (e.target as HTMLElement).closest('input, select, textarea, [contenteditable=true], [role=dialog]');
    // Out of the words of a block and onto the block, from where the keyboard goes on.
    if (e.key === 'Escape' && meant && (e.target as HTMLElement).closest('[data-canvas] [contenteditable=true]'))
      return show(meant);
    if (e.key === 'Enter' && e.altKey && meant) {
      e.preventDefault();
      setRight('there');
      select(meant);
      return focusSettings(meant);
    }
    if (inText || !current) return;
    const key = e.key.toLowerCase();
    const ctrl = e.ctrlKey || e.metaKey;
    const these = chosen.has(current.id) ? chosen : new Set([current.id]);
    if (e.key === 'Enter' && e.shiftKey) write(current.id);
    else if (e.key === '/') setOffered(placeAfter(step, current.id));
    else if (ctrl && key === 'v') withMade(dispatch(pasteBlocks(step, placeAfter(step, current.id))));
    else if (isLocked(current)) return;
    else if (e.altKey && e.key === 'ArrowUp') dispatch(moveBlock(step, current.id, -1));
    else if (e.altKey && e.key === 'ArrowDown') dispatch(moveBlock(step, current.id, 1));
    else if (ctrl && key === 'd') withMade(dispatch(duplicateBlocks(step, these)));
    else if (ctrl && key === 'c') copyBlocks(step, these);
    else if (e.key === 'Delete') remove(these);
    else return;
    e.preventDefault();
  };
  const stepPerson = (by: 1 | -1) => {
    const { people, person } = reader;
    const next = people[(people.findIndex((p) => p.id === person?.id) + by + people.length) % people.length];
    if (next) dispatch(readAs(next.id));
  };
  const senderName =
    around.senders.find((s) => s.id === email.sender)?.name ??
    around.senders.find((s) => s.isDefault)?.name ??
    'No sender';
  const keepSource = (html: string) =>
    dispatch(edit([{ type: 'email.set', step: step.id, field: 'html', value: html }]));
  return (
    <ComposerContext.Provider value={composer}>
      <Rendering email={email} around={around} reading={reader.reading} service={doc.list === null} peek={peeker}>
        <FieldChoices.Provider value={choices}>
          <Dragging>
            <div className="flex min-h-0 flex-1 flex-col" onKeyDown={onKey}>
              <ComposerHeader findings={findings} open={setOpened} />
              <Envelope />
              <div className="flex min-h-0 flex-1">
                {mode !== 'html' && left === 'there' && <Outline />}
                <div className="flex min-w-0 flex-1 flex-col">
                  <div className="flex shrink-0 flex-wrap items-center justify-between gap-1.5 border-b border-line px-3 py-2">
                    <div className="flex items-center">
                      {mode !== 'html' && (
                        <IconButton
                          name={left === 'there' ? 'Put the outline away' : 'Show the outline'}
                          aria-expanded={left === 'there'}
                          className="mr-1 -ml-2"
                          onClick={() => setLeft(left === 'there' ? 'away' : 'there')}
                        >
                          <PanelLeft size={15} />
                        </IconButton>
                      )}
                      <ReaderBar reader={reader} around={around} />
                      <IconButton name="Person before" onClick={() => stepPerson(-1)}>
                        <ChevronLeft size={15} />
                      </IconButton>
                      <IconButton name="Next person (Ctrl Shift P)" onClick={() => stepPerson(1)}>
                        <ChevronRight size={15} />
                      </IconButton>
                    </div>
                    <div className="flex items-center gap-2">
                      {mode !== 'html' && (
                        <Button className="!px-2.5 !py-1 text-[13px]" onClick={() => setOpened('seen')}>
                          <Users size={14} aria-hidden="true" />
                          Who sees what
                        </Button>
                      )}
                      <ViewTabs
                        small
                        name="How the page is shown"
                        value={view}
                        views={[
                          ['write', 'Write'],
                          ['sent', 'As sent'],
                        ]}
                        choose={setView}
                      />
                      <IconButton
                        name={right === 'there' ? 'Put preview and settings away' : 'Show preview and settings'}
                        aria-expanded={right === 'there'}
                        className="-mr-2"
                        onClick={() => setRight(right === 'there' ? 'away' : 'there')}
                      >
                        <PanelRight size={15} />
                      </IconButton>
                    </div>
                  </div>
                  <div
                    role="region"
                    aria-label="The page"
                    tabIndex={0}
                    className="min-h-0 flex-1 overflow-auto bg-[#e9e4d8] p-5"
                    data-canvas
                  >
                    {view === 'sent' ? (
                      <AsSent sender={senderName} />
                    ) : mode === 'html' ? (
                      <HtmlEditor
                        label="Source of the email"
                        value={email.html ?? ''}
                        save={keepSource}
                        height="520px"
                      />
                    ) : (
                      <Canvas />
                    )}
                  </div>
                </div>
                {right === 'there' && (
                  <aside
                    aria-label="Preview and settings"
                    className={`flex shrink-0 flex-col overflow-y-auto border-l border-line bg-sheet ${phone === 'large' ? 'w-[424px]' : 'w-[304px]'}`}
                  >
                    <Preview
                      sender={senderName}
                      openDesktop={() => setView('sent')}
                      openGallery={() => setOpened('gallery')}
                      large={{ on: phone === 'large', set: (on) => setPhone(on ? 'large' : 'small') }}
                    />
                    {mode !== 'html' && <Inspector share={() => setOpened('share')} />}
                    {mode === 'html' && (
                      <p className="border-t border-line p-4 text-ink-2">
                        Write merge fields as {'{{ subscriber.first_name | default: "reader" }}'}, and give a link the
                        address {'{{ links.unsubscribe }}'}.
                      </p>
                    )}
                  </aside>
                )}
              </div>
              {offered && <AddMenu place={offered} onClose={() => setOffered(null)} />}
              <ComposerDialogs opened={opened} close={() => setOpened(null)} findings={findings ?? []} />
            </div>
          </Dragging>
        </FieldChoices.Provider>
      </Rendering>
    </ComposerContext.Provider>
  );
}
