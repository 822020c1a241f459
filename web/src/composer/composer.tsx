import { ArrowDown, ArrowUp, Copy, ListChecks, Send, Trash2 } from 'lucide-react';
import { useEffect, useState, type KeyboardEvent } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import {
  blockKinds,
  blockTitle,
  findStep,
  isLocked,
  previewTemplate,
  type Block,
  type BlockKindName,
  type EmailStep,
  startingEvents,
} from '@ascenso/core';
import { sentence, useAroundQuery, useMeQuery, useTestSendMutation } from '../app/api.ts';
import { edit, settled, undo } from '../app/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { FindingList } from '../plan/findings.tsx';
import { SavedNote, UndoButtons, useDraft, useDraftKeys, useFindings } from '../plan/sequence.tsx';
import { Button, buttonClass, Dialog, EmailFrame, Empty, IconButton, inputClass, TextField } from '../ui/index.tsx';
import { newId } from '../ui/names.ts';
import { BlockFace, blockIcons, BlockPanel } from './blocks.tsx';
import { LineEditor } from './editors.tsx';
import { choicesFrom, FieldChoices } from './field-picker.tsx';
import { useRendered, type Rendered } from './preview.ts';
import { personName, ReaderBar, useNextPersonKey, useReader } from './reader.tsx';

/** What a phone shows of a subject and a preview text, in characters (common practice, no published source). */
const SUBJECT_SHOWN = 40;
const PREVIEW_SHOWN = 90;

function TestSend({
  id,
  step,
  reader,
  open,
  onClose,
}: {
  id: string;
  step: EmailStep;
  reader: ReturnType<typeof useReader>;
  open: boolean;
  onClose: () => void;
}) {
  const { data: me } = useMeQuery();
  const [to, setTo] = useState('');
  const [send, { error, isLoading }] = useTestSendMutation();
  const dispatch = useAct();
  useEffect(() => setTo(me?.user.email ?? ''), [me]);
  const go = async () => {
    if (!reader.person) return;
    await dispatch(settled());
    const answer = await send({ id, step: step.id, to, person: reader.person.id, event: reader.event?.id ?? null });
    if (answer.error) return;
    toast.success(`Sent to ${to}, as ${personName(reader.person)} would get it.`);
    onClose();
  };
  return (
    <Dialog open={open} onClose={onClose} title="Send a test">
      <form className="flex flex-col gap-3" onSubmit={(e) => { e.preventDefault(); void go(); }}>
        <TextField label="To" type="email" value={to} onChange={(e) => setTo(e.target.value)} error={error ? sentence(error) : undefined} />
        <p className="text-ink-2">{reader.person ? `Filled in as ${personName(reader.person)}. It counts nowhere.` : 'Add a person first: a test is filled in as somebody.'}</p>
        <div className="flex justify-end"><Button tone="main" type="submit" disabled={isLoading || !reader.person}>Send the test</Button></div>
      </form>
    </Dialog>
  ); // prettier-ignore
}

function Preview({ rendered, sender }: { rendered: Rendered | null; sender: string }) {
  const [view, setView] = useState<'phone' | 'text'>('phone');
  const tab = (v: typeof view, name: string) => (
    <button
      type="button"
      aria-pressed={view === v}
      onClick={() => setView(v)}
      className={`rounded-full px-3 py-1 text-[13px] font-semibold ${view === v ? 'bg-spruce-tint text-spruce-deep' : 'text-ink-2'}`}
    >
      {name}
    </button>
  );
  return (
    <div className="flex flex-col gap-2 p-3">
      <div className="flex gap-1">{tab('phone', 'Phone')}{tab('text', 'Plain text')}<span className="ml-auto self-center text-[12px] text-ink-2 tabular-nums">{rendered ? `${Math.max(1, Math.round(rendered.bytes / 1000))} kB` : ''}</span></div>
      {view === 'phone' ? (
        <div className="mx-auto h-[370px] w-[268px] overflow-hidden rounded-t-[26px] border-[6px] border-b-0 border-ink bg-white">
          <div className="border-b border-line px-3 py-2 text-[12px]"><p className="truncate font-semibold">{sender}</p><p className="truncate">{rendered?.subject}</p><p className="truncate text-ink-2">{rendered?.preview}</p></div>
          {rendered && <EmailFrame title="The email on a phone" html={rendered.html} className="h-[480px] w-[375px] origin-top-left scale-[0.683]" />}
        </div>
      ) : <pre tabIndex={0} className="h-[370px] overflow-auto rounded-control border border-line bg-paper-2 p-3 text-[12px] whitespace-pre-wrap">{rendered?.text}</pre>}
    </div>
  ); // prettier-ignore
}

export function ComposerScreen() {
  const { id = '', step: stepId = '' } = useParams();
  const { ready, problem } = useDraft(id);
  useDraftKeys();
  const doc = useApp((s) => s.draft.doc);
  const dispatch = useAct();
  const { data: around } = useAroundQuery();
  const [params, setParams] = useSearchParams();
  const [view, setView] = useState<'write' | 'sent'>('write');
  const [dialog, setDialog] = useState<'test' | 'checks' | null>(null);
  const found = doc && ready ? findStep(doc, stepId)?.step : undefined;
  const step = found?.kind === 'email' ? found : null;
  const reader = useReader(doc, around, step?.email.sender ?? '');
  useNextPersonKey(reader);
  const rendered = useRendered(step?.email ?? null, around, reader.context);
  const findings = useFindings(id)?.filter((f) => f.place.step === stepId);
  const part = params.get('part');
  const opened = step !== null;
  // A finding leads to the very field it speaks of.
  useEffect(() => {
    if (opened && part) document.getElementById(`part-${part}`)?.focus();
  }, [opened, part]);
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
  const selected = params.get('block') ?? email.blocks[0]?.id ?? null;
  const block = email.blocks.find((b) => b.id === selected) ?? null;
  const select = (b: string) => setParams({ block: b }, { replace: true });
  /** Selects a block and puts the focus on it in the outline, so that the keyboard goes on from there. */
  const show = (b: string) => {
    select(b);
    requestAnimationFrame(() =>
      document.querySelector<HTMLElement>(`[data-block="${CSS.escape(b)}"] [aria-pressed]`)?.focus(),
    );
  };
  const kinds = around.kinds.filter((k) => startingEvents(doc.triggers).includes(k.name));
  const choices = choicesFrom(
    {
      subscriber: ['email', ...around.attributes.map((a) => a.key)],
      event: [...new Set(kinds.flatMap((k) => k.fields.map((f) => f.name)))],
      sender: ['name', 'email', 'phone', 'page'],
    },
    reader.context,
  );
  const setEnvelope = (field: 'sender' | 'subject' | 'preview', value: string) =>
    dispatch(edit([{ type: 'email.set', step: step.id, field, value }]));
  const setBlock = (b: Block) => (field: string, value: unknown) =>
    dispatch(edit([{ type: 'block.set', step: step.id, block: b.id, field, value }]));
  const add = (k: BlockKindName) => {
    const made = blockKinds[k].blank(newId());
    const at =
      block && !isLocked(block) ? email.blocks.indexOf(block) + 1 : email.blocks.filter((b) => !isLocked(b)).length;
    dispatch(edit([{ type: 'block.insert', step: step.id, index: at, block: made }]));
    select(made.id);
  };
  const move = (b: Block, by: -1 | 1) => {
    const to = email.blocks.indexOf(b) + by;
    if (to >= 0 && email.blocks[to] && !isLocked(email.blocks[to]))
      dispatch(edit([{ type: 'block.move', step: step.id, block: b.id, index: to }]));
  };
  const copy = (b: Block) => {
    const made = { ...b, id: newId() };
    dispatch(edit([{ type: 'block.insert', step: step.id, index: email.blocks.indexOf(b) + 1, block: made }]));
    show(made.id);
  };
  const remove = (b: Block) => {
    const at = email.blocks.indexOf(b);
    const neighbour = email.blocks[at - 1] ?? email.blocks[at + 1];
    if (!dispatch(edit([{ type: 'block.remove', step: step.id, block: b.id }]))) return;
    if (neighbour) show(neighbour.id);
    toast(`Deleted the block “${blockTitle(b)}”.`, { action: { label: 'Undo', onClick: () => dispatch(undo()) } });
  };
  const onKey = (e: KeyboardEvent) => {
    // What has the focus is meant: the selection in the address follows it a moment later.
    const meant = (e.target as HTMLElement).closest<HTMLElement>('[data-block]')?.dataset.block;
    const current = email.blocks.find((b) => b.id === meant) ?? block;
    const inText = (e.target as HTMLElement).closest('input, select, textarea, [contenteditable=true], [role=dialog]');
    if (inText || !current || isLocked(current)) return;
    else if (e.altKey && e.key === 'ArrowUp') move(current, -1);
    else if (e.altKey && e.key === 'ArrowDown') move(current, 1);
    else if (e.ctrlKey && e.key.toLowerCase() === 'd') copy(current);
    else if (e.key === 'Delete') remove(current);
    else return;
    e.preventDefault();
  };
  const counted = (n: number, shown: number) => (
    <span className="tabular-nums">
      {n} of ~{shown} shown on a phone
    </span>
  );
  const senderName =
    around.senders.find((s) => s.id === email.sender)?.name ??
    around.senders.find((s) => s.isDefault)?.name ??
    'No sender';
  return (
    <FieldChoices.Provider value={choices}>
      <div className="flex min-h-0 flex-1 flex-col" onKeyDown={onKey}>
        <div className="flex shrink-0 items-center gap-2 border-b border-line px-5 py-2.5">
          <Link to={`/sequences/${id}?select=${step.id}`} className="text-ink-2 hover:underline">{doc.name} /</Link>
          <h1 className="text-[17px] font-bold">{step.name || 'Email'}</h1>
          <SavedNote />
          <span className="flex-1" />
          <UndoButtons />
          <Button tone={findings?.length ? 'fix' : 'plain'} onClick={() => setDialog('checks')}><ListChecks size={16} aria-hidden="true" />{findings?.length ? `${findings.length} to fix` : findings ? 'Checks passed' : 'Checking …'}</Button>
          <Button onClick={() => setDialog('test')}><Send size={15} aria-hidden="true" />Send a test</Button>
          <Link to={`/sequences/${id}?select=${step.id}`} className={buttonClass('main')}>Back to the plan</Link>
        </div>
        <div className="flex shrink-0 items-start gap-3 border-b border-line bg-sheet px-5 py-2.5">
          <div className="w-60"><p className="mb-1 text-[12px] text-ink-2">From</p>
            <select id="part-sender" aria-label="From" value={email.sender} onChange={(e) => setEnvelope('sender', e.target.value)} className={inputClass}>
              <option value="">{around.senders.find((s) => s.isDefault)?.name ?? 'No sender yet'} (default)</option>
              {around.senders.filter((s) => !s.isDefault).map((s) => <option key={s.id} value={s.id}>{s.name}</option>)}
            </select></div>
          <LineEditor id="part-subject" label="Subject" value={email.subject} placeholder="What they see first" save={(v) => setEnvelope('subject', v)} note={counted(rendered?.subject.length ?? 0, SUBJECT_SHOWN)} />
          <LineEditor id="part-preview" label="Preview text" value={email.preview} placeholder={`From the text: ${previewTemplate(email).slice(0, 40) || '…'}`} save={(v) => setEnvelope('preview', v)} note={counted(rendered?.preview.length ?? 0, PREVIEW_SHOWN)} />
        </div>
        <div className="flex min-h-0 flex-1">
          <aside aria-label="Blocks" className="flex w-56 shrink-0 flex-col gap-1 overflow-y-auto border-r border-line p-3">
            <p className="px-1 text-[12px] text-ink-2">Outline</p>
            {email.blocks.map((b) => (
              <div key={b.id} data-block={b.id} className={`flex items-center rounded-control ${b.id === selected ? 'bg-spruce-tint text-spruce-deep' : 'hover:bg-paper-2'}`}>
                <button type="button" aria-pressed={b.id === selected} onClick={() => select(b.id)} className="flex min-w-0 flex-1 items-center gap-2 px-2 py-1.5 text-left [&>svg]:shrink-0">{blockIcons[b.kind]}<span className="truncate">{blockTitle(b)}</span></button>
                {b.id === selected && !isLocked(b) && <><IconButton name="Move up (Alt ↑)" className="!w-6" onClick={() => move(b, -1)}><ArrowUp size={13} /></IconButton><IconButton name="Move down (Alt ↓)" className="!w-6" onClick={() => move(b, 1)}><ArrowDown size={13} /></IconButton></>}
              </div>
            ))}
            <p className="mt-3 px-1 text-[12px] text-ink-2">Add</p>
            <div className="grid grid-cols-2 gap-1.5">
              {(['text', 'heading', 'image', 'button', 'divider'] as const).map((k) => <button key={k} type="button" onClick={() => add(k)} className="flex flex-col items-center gap-1 rounded-control border border-line bg-sheet py-2 text-[12px] hover:border-spruce">{blockIcons[k]}{blockKinds[k].name}</button>)}
              {!email.blocks.some(isLocked) && <button type="button" onClick={() => add('footer')} className="flex flex-col items-center gap-1 rounded-control border border-line bg-sheet py-2 text-[12px] hover:border-spruce">{blockIcons.footer}Footer</button>}
            </div>
          </aside>
          <div className="flex min-w-0 flex-1 flex-col">
            <div className="flex shrink-0 items-center justify-between gap-2 border-b border-line px-4 py-2">
              <ReaderBar reader={reader} around={around} />
              <div className="flex rounded-control border border-line bg-sheet text-[13px] font-semibold">
                {(['write', 'sent'] as const).map((v) => <button key={v} type="button" aria-pressed={view === v} onClick={() => setView(v)} className={`px-3 py-1 first:rounded-l-control last:rounded-r-control ${view === v ? 'bg-spruce-tint text-spruce-deep' : 'text-ink-2'}`}>{v === 'write' ? 'Write' : 'As sent'}</button>)}
              </div>
            </div>
            <div className="min-h-0 flex-1 overflow-auto bg-[#e9e4d8] p-5">
              {view === 'sent' ? (rendered && <EmailFrame title="The email as it is sent" html={rendered.html} className="mx-auto block h-full min-h-[500px] w-full max-w-[700px]" />) : (
                <div className="mx-auto max-w-[600px] bg-sheet py-4">
                  {email.blocks.map((b) => (
                    <div key={b.id} data-block={b.id} onFocus={() => b.id !== selected && select(b.id)} onClick={() => b.id !== selected && select(b.id)} className={`relative outline-2 ${b.id === selected ? 'outline-spruce' : 'outline-transparent hover:outline-line'}`}>
                      {b.id === selected && !isLocked(b) && (
                        <span className="absolute -top-8 left-0 z-10 flex items-center rounded-t-control bg-spruce pl-2 text-[12px] font-semibold text-white">
                          {blockKinds[b.kind].name}
                          <IconButton name="Duplicate (Ctrl D)" className="!text-white hover:!bg-spruce-deep" onClick={() => copy(b)}><Copy size={13} /></IconButton>
                          <IconButton name="Delete block (Del)" className="!text-white hover:!bg-spruce-deep" onClick={() => remove(b)}><Trash2 size={13} /></IconButton>
                        </span>
                      )}
                      <BlockFace block={b} around={around} set={setBlock(b)} />
                    </div>
                  ))}
                </div>
              )}
            </div>
          </div>
          <aside aria-label="Preview and settings" className="flex w-[304px] shrink-0 flex-col overflow-y-auto border-l border-line bg-sheet">
            <Preview rendered={rendered} sender={senderName} />
            {block && (
              <section className="border-t border-line p-4">
                <p className="text-[12px] text-ink-2">{blockKinds[block.kind].name} block</p>
                <h2 className="mb-3 truncate text-[16px] font-bold">{blockTitle(block)}</h2>
                <BlockPanel block={block} around={around} set={setBlock(block)} />
              </section>
            )}
          </aside>
        </div>
        <TestSend id={id} step={step} reader={reader} open={dialog === 'test'} onClose={() => setDialog(null)} />
        <Dialog open={dialog === 'checks'} onClose={() => setDialog(null)} title="Checks of this email" wide><FindingList id={id} findings={findings ?? []} onJump={() => setDialog(null)} /></Dialog>
      </div>
    </FieldChoices.Provider>
  ); // prettier-ignore
}
