import { useState } from 'react';
import { toast } from 'sonner';
import { blockKinds, copyBlock, findBlock, modeOf, type Block, type Command, type Email } from '@ascenso/core';
import { sentence, useAroundQuery, useChangeMutation, useTemplatesQuery } from '../app/api.ts';
import { edit } from '../app/draft.ts';
import { useAct } from '../app/store.ts';
import { Button, ChoiceCards, Dialog, Select, TextField } from '../ui/index.tsx';
import { newId } from '../ui/names.ts';
import { outermost, placeFor } from './actions.ts';
import { useComposer } from './context.ts';
import { Thumbnail } from './thumbnail.tsx';

const places = (n: number) => `${n} ${n === 1 ? 'place' : 'places'}`;

/** The name that a section got when a shared block was taken apart: which one it came from. */
const CAME_FROM = /^From “(.+)”$/;

/** Who a block is shown to, and on which screens: what another block takes over when it stands in for this one. */
const whoSees = ({ when, only, off }: Block) => ({ ...(when && { when }), ...(only && { only }), ...(off && { off }) });

/** Keeps the chosen blocks for other emails too: as a new shared block, or by changing one everywhere. */
export function ShareDialog({ onClose }: { onClose: () => void }) {
  const { step, around: known, chosen, selected, show } = useComposer();
  // Where a block is used is asked anew: edits of drafts change it.
  const { data: around = known } = useAroundQuery(undefined, { refetchOnMountOrArgChange: true });
  const dispatch = useAct();
  const [change, { error }] = useChangeMutation();
  const found = outermost(step, chosen);
  // A section that a shared block was taken apart into gives its inside back.
  const origin = selected?.kind === 'section' ? CAME_FROM.exec(selected.name ?? '')?.[1] : undefined;
  const source = around.shared.find((s) => s.name === origin);
  const blocks: Block[] = source && selected?.kind === 'section' ? selected.blocks : found;
  const [picked, setHow] = useState<'change' | 'keep'>('change');
  const how = source ? picked : 'keep';
  const [name, setName] = useState('');
  const go = async () => {
    const fresh = blocks.map((b) => copyBlock(b, newId));
    const answer =
      how === 'change' && source
        ? await change({ url: `/shared/${source.id}`, method: 'PUT', body: { name: source.name, blocks: fresh } })
        : await change({ url: '/shared', method: 'POST', body: { name, blocks: fresh } });
    if (answer.error) return;
    // The section goes, who sees it stays: a block for some never becomes a block for everyone.
    const shown = source && selected ? whoSees(selected) : {};
    const shared = { ...blockKinds.shared.blank(newId), ...shown, shared: how === 'change' && source ? source.id : (answer.data.id ?? '') };
    const [first] = found;
    const place = first && findBlock(step.email.blocks, first.id);
    if (!place) return onClose();
    const { index } = placeFor(step, 'shared', place);
    const commands: Command[] = [
      ...found.map((b): Command => ({ type: 'block.remove', step: step.id, block: b.id })),
      { type: 'block.insert', step: step.id, index, block: shared },
    ];
    if (dispatch(edit(commands))) show(shared.id);
    toast.success(how === 'change' ? `“${source?.name}” is changed everywhere. Live sequences take it on when they are published again.` : `Kept as “${name}”.`);
    onClose();
  }; // prettier-ignore
  const choices = source
    ? [
        { value: 'change' as const, words: `Change it everywhere (${places(source.usedIn.length)})`, note: source.usedIn.map((u) => u.name).join(', ') || 'Used nowhere else yet.' },
        { value: 'keep' as const, words: 'Keep as another shared block', note: `“${source.name}” stays as it is.` },
      ]
    : []; // prettier-ignore
  return (
    <Dialog open onClose={onClose} title="Into the library">
      <form className="flex flex-col gap-3" onSubmit={(e) => { e.preventDefault(); void go(); }}>
        <p className="text-ink-2">{found.length === 0 ? 'Choose the blocks first, in the outline.' : `${blocks.length} ${blocks.length === 1 ? 'block becomes' : 'blocks become'} one shared block, which is changed in one place.`}</p>
        {source && <ChoiceCards name="how" legend="This came from a shared block" choices={choices} chosen={how} choose={setHow} />}
        {how === 'keep' && <TextField label="Name" value={name} onChange={(e) => setName(e.target.value)} error={error ? sentence(error) : undefined} />}
        <div className="flex justify-end"><Button tone="main" type="submit" disabled={found.length === 0 || (how === 'keep' && name.trim() === '')}>{how === 'change' ? 'Change it everywhere' : 'Keep as a shared block'}</Button></div>
      </form>
    </Dialog>
  ); // prettier-ignore
}

/** Takes a shared block apart: its blocks stand in a section of this email, to be changed here. */
export function takeApart(step: { id: string; email: Email }, block: Extract<Block, { kind: 'shared' }>, shared: { name: string; blocks: Block[] }): Command[] {
  const place = findBlock(step.email.blocks, block.id);
  const section = { ...blockKinds.section.blank(newId), name: `From “${shared.name}”`, blocks: shared.blocks.map((b) => copyBlock(b, newId)) as never[], look: { above: 0, below: 0 }, ...whoSees(block) };
  return [
    { type: 'block.remove', step: step.id, block: block.id },
    { type: 'block.insert', step: step.id, index: place?.index ?? 0, block: section },
  ];
} // prettier-ignore

/** Keeps the email as a template, or begins it anew from one, with what that would replace told first. */
export function TemplatesDialog({ onClose }: { onClose: () => void }) {
  const { step, around, reader } = useComposer();
  const dispatch = useAct();
  const { data } = useTemplatesQuery();
  const [change, { error }] = useChangeMutation();
  const [picked, setPicked] = useState<string | null>(null);
  const [name, setName] = useState('');
  const [mine, setMine] = useState(false);
  const [over, setOver] = useState('');
  const templates = data?.templates ?? [];
  const template = templates.find((t) => t.id === picked);
  const use = () => {
    if (!template) return;
    const { email } = template;
    const set = (field: 'subject' | 'preview' | 'sender' | 'mode' | 'html' | 'text', value: unknown): Command => ({ type: 'email.set', step: step.id, field, value }); // prettier-ignore
    const commands: Command[] = [
      ...step.email.blocks.map((b): Command => ({ type: 'block.remove', step: step.id, block: b.id })),
      ...email.blocks.map((b, index): Command => ({ type: 'block.insert', step: step.id, index, block: copyBlock(b, newId) })),
      set('mode', email.mode ?? null), set('html', email.html ?? null), set('text', null),
      ...(email.subject ? [set('subject', email.subject)] : []), ...(email.preview ? [set('preview', email.preview)] : []), ...(email.sender ? [set('sender', email.sender)] : []),
    ]; // prettier-ignore
    if (dispatch(edit(commands))) toast(`Begun anew from “${template.name}”. Undo brings back what stood there.`);
    onClose();
  };
  const keep = async () => {
    const known = templates.find((t) => t.id === over);
    const body = { name: known?.name ?? name, email: step.email, private: known ? known.private : mine };
    const answer = await change(known ? { url: `/templates/${known.id}`, method: 'PUT', body } : { url: '/templates', method: 'POST', body }); // prettier-ignore
    if (answer.error) return;
    toast.success(known ? `The template “${known.name}” is changed.` : `Kept as the template “${name}”.`);
    onClose();
  };
  const { email } = step;
  const replaced = [`${email.blocks.length} blocks`, ...(template?.email.subject && email.subject ? [`the subject “${email.subject}”`] : []), ...(template?.email.preview && email.preview ? ['the preview text'] : [])]; // prettier-ignore
  return (
    <Dialog open onClose={onClose} title="Templates" wide>
      {templates.length === 0 && <p className="text-ink-2">None yet. Keep this email as the first one.</p>}
      <div className="flex flex-wrap gap-3">
        {templates.map((t) => (
          <button key={t.id} type="button" aria-pressed={t.id === picked} onClick={() => setPicked(t.id)} className={`rounded-sheet border p-2 text-left ${t.id === picked ? 'border-spruce bg-spruce-tint' : 'border-line hover:border-spruce-mid'}`}>
            <Thumbnail email={t.email} title={`Template ${t.name}`} around={around} reading={reader.reading} /><p className="mt-1.5 w-36 truncate font-semibold">{t.name}</p><p className="text-[12px] text-ink-2">{t.private ? 'Yours alone' : 'Everyone’s'}{modeOf(t.email) === 'designed' ? '' : ` · ${modeOf(t.email)}`}</p>
          </button>
        ))}
      </div>
      {template && <div className="mt-3 flex items-center gap-3 rounded-control bg-ochre-tint px-3 py-2"><p className="flex-1 text-ochre-text">It replaces {replaced.join(', ')}.</p><Button tone="main" onClick={use}>Begin anew from “{template.name}”</Button></div>}
      <form className="mt-4 flex items-end gap-3 border-t border-line pt-4" onSubmit={(e) => { e.preventDefault(); void keep(); }}>
        <Select label="Keep this email" value={over} onChange={(e) => setOver(e.target.value)}><option value="">as another template</option>{templates.map((t) => <option key={t.id} value={t.id}>by changing “{t.name}”</option>)}</Select>
        {!over && <TextField label="Name" value={name} onChange={(e) => setName(e.target.value)} error={error ? sentence(error) : undefined} />}
        {!over && <Select label="For" value={mine ? 'me' : 'all'} onChange={(e) => setMine(e.target.value === 'me')}><option value="all">the whole team</option><option value="me">me alone</option></Select>}
        <Button type="submit" disabled={!over && name.trim() === ''}>{over ? 'Change the template' : 'Keep as a template'}</Button>
      </form>
    </Dialog>
  ); // prettier-ignore
}
