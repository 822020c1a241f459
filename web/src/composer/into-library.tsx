import { useState } from 'react';
import { ForWhom } from '../library/for-whom.tsx';
import { toast } from 'sonner';
import { copyBlock, modeOf, type Block } from '@ascenso/core';
import { useKeepSharedMutation } from '../library/endpoints.ts';
import { useKeepTemplateMutation } from './endpoints.ts';
import { useAround } from '../app/around.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { senderOfCopy } from '../senders/of-copy.ts';
import { useTemplatesQuery } from './endpoints.ts';
import { partsOf, takeParts, type TemplatePart } from './from-template.ts';
import { edit } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { Button, ChoiceCards, Dialog, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { newId } from '../ui/names.ts';
import { outermost } from './actions.ts';
import { useComposer } from './context.ts';
import { asShared, cameFrom } from './sharing.ts';
import { shipped, SourceCard, type Source } from './sources.tsx';

const places = (n: number) => `${n} ${n === 1 ? 'place' : 'places'}`;

/** Keeps the chosen blocks for other emails too: as a new shared block, or by changing one everywhere. */
export function ShareDialog({ onClose }: { onClose: () => void }) {
  const { step, around: known, chosen, selected, show } = useComposer();
  // Where a block is used is asked anew: edits of drafts change it.
  const around = useAround(['shared'], { fresh: true }) ?? known;
  const dispatch = useAct();
  const [keep, { error }] = useKeepSharedMutation();
  const found = outermost(step, chosen);
  // A section that a shared block was taken apart into gives its inside back.
  const origin = selected && cameFrom(selected);
  const source = around.shared.find((s) => s.name === origin);
  const blocks: Block[] = source && selected?.kind === 'section' ? selected.blocks : found;
  const [picked, setHow] = useState<'change' | 'keep'>('change');
  const how = source ? picked : 'keep';
  const [name, setName] = useState('');
  const go = async () => {
    const fresh = blocks.map((b) => copyBlock(b, newId));
    const answer =
      how === 'change' && source
        ? await keep({ id: source.id, name: source.name, blocks: fresh })
        : await keep({ name, blocks: fresh });
    if (answer.error) return;
    const shared = how === 'change' && source ? source.id : (answer.data.id ?? '');
    const made = asShared(step, found, shared, source && selected ? selected : null);
    if (!made) return onClose();
    if (dispatch(edit(made.commands))) show(made.block);
    toast.success(
      how === 'change'
        ? `“${source?.name}” is changed everywhere. Live sequences take it on when they are published again.`
        : `Kept as “${name}”.`,
    );
    onClose();
  };
  const choices = source
    ? [
        {
          value: 'change' as const,
          words: `Change it everywhere (${places(source.usedIn.length)})`,
          note: source.usedIn.map((u) => u.name).join(', ') || 'Used nowhere else yet.',
        },
        { value: 'keep' as const, words: 'Keep as another shared block', note: `“${source.name}” stays as it is.` },
      ]
    : [];
  return (
    <Dialog open onClose={onClose} title="Into the library">
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void go();
        }}
      >
        <p className="text-ink-2">
          {found.length === 0
            ? 'Choose the blocks first, in the outline.'
            : `${blocks.length} ${blocks.length === 1 ? 'block becomes' : 'blocks become'} one shared block, which is changed in one place.`}
        </p>
        {source && (
          <ChoiceCards
            name="how"
            legend="This came from a shared block"
            choices={choices}
            chosen={how}
            choose={setHow}
          />
        )}
        {how === 'keep' && (
          <TextField
            label="Name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            error={error ? sentence(error) : undefined}
          />
        )}
        <div className="flex justify-end">
          <Button tone="main" type="submit" disabled={found.length === 0 || (how === 'keep' && name.trim() === '')}>
            {how === 'change' ? 'Change it everywhere' : 'Keep as a shared block'}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** Keeps the email as a template, or begins it anew from one or from a layout, with what that would replace told first. */
export function TemplatesDialog({ onClose }: { onClose: () => void }) {
  const { step, around, reader } = useComposer();
  const dispatch = useAct();
  const { data } = useTemplatesQuery();
  const { data: me } = useMeQuery();
  const [keepTemplate, { error }] = useKeepTemplateMutation();
  const [picked, setPicked] = useState<string | null>(null);
  const [name, setName] = useState('');
  const [mine, setMine] = useState(false);
  const [left, setLeft] = useState<ReadonlySet<TemplatePart['field']>>(new Set());
  const [over, setOver] = useState('');
  const templates = data?.templates ?? [];
  const own = templates.find((t) => t.id === picked);
  const template: Source | undefined = own
    ? {
        name: own.name,
        template: own.id,
        email: { ...own.email, sender: senderOfCopy(own.email.sender, around.senders, me?.user.id ?? '') },
      }
    : shipped.find((l) => l.name === picked);
  const senderName = (id: string) =>
    (around.senders.find((s) => s.id === id) ?? around.senders.find((s) => s.isDefault))?.name ?? 'the default one';
  const parts = template ? partsOf(step.email, template.email, senderName) : [];
  const taken = new Set(parts.map((p) => p.field).filter((f) => !left.has(f)));
  const use = () => {
    if (!template) return;
    if (dispatch(edit(takeParts(step, template, taken))))
      toast(`Taken from “${template.name}”. Undo brings back what stood there.`);
    onClose();
  };
  const keep = async () => {
    const answer = await keepTemplate({
      ...(known && { id: known.id }),
      name: known?.name ?? name,
      about: known?.about ?? '',
      email: step.email,
      private: known ? known.private : mine,
    });
    if (answer.error) return;
    toast.success(known ? `The template “${known.name}” is changed.` : `Kept as the template “${name}”.`);
    onClose();
  };
  const known = templates.find((t) => t.id === over);
  return (
    <Dialog open onClose={onClose} title="Templates" wide>
      {templates.length === 0 && <p className="text-ink-2">None yet. Keep this email as the first one.</p>}
      <div className="flex max-h-[52vh] flex-wrap gap-3 overflow-y-auto p-0.5">
        {templates.map((t) => (
          <SourceCard
            key={t.id}
            name={t.name}
            email={t.email}
            around={around}
            reading={reader.reading}
            chosen={t.id === picked}
            choose={() => setPicked(t.id)}
            words={[
              t.private ? 'Yours alone' : 'Everyone’s',
              t.usedIn.length === 0
                ? 'not used yet'
                : `${t.usedIn.length} ${t.usedIn.length === 1 ? 'email' : 'emails'}`,
              ...(modeOf(t.email) === 'designed' ? [] : [modeOf(t.email)]),
            ].join(' · ')}
          />
        ))}
        <h3 className="w-full font-sans font-semibold">
          Layouts <span className="font-normal text-ink-2">with words to be filled in</span>
        </h3>
        {shipped.map((l) => (
          <SourceCard
            key={l.name}
            name={l.name}
            email={l.email}
            around={around}
            reading={reader.reading}
            chosen={l.name === picked}
            choose={() => setPicked(l.name)}
            words={l.what}
          />
        ))}
      </div>
      {template && (
        <div className="mt-3 flex items-end gap-3 rounded-control bg-ochre-tint px-3 py-2">
          <fieldset className="flex-1 text-ochre-text">
            <legend className="mb-1 font-semibold">It replaces, as far as you choose it</legend>
            {parts.map((p) => (
              <label key={p.field} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  checked={!left.has(p.field)}
                  onChange={(e) => {
                    const next = new Set(left);
                    if (e.target.checked) next.delete(p.field);
                    else next.add(p.field);
                    setLeft(next);
                  }}
                />
                {p.words}
              </label>
            ))}
          </fieldset>
          <Button tone="main" disabled={taken.size === 0} onClick={use}>
            Begin anew from “{template.name}”
          </Button>
        </div>
      )}
      <form
        className="mt-4 flex items-end gap-3 border-t border-line pt-4"
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <Choice
          label="Keep this email"
          value={over}
          choose={setOver}
          of={[
            { value: '', label: 'as another template' },
            ...templates.map((t) => ({ value: t.id, label: `by changing “${t.name}”` })),
          ]}
        />
        {!over && (
          <TextField
            label="Name"
            value={name}
            onChange={(e) => setName(e.target.value)}
            error={error ? sentence(error) : undefined}
          />
        )}
        {!over && <ForWhom mine={mine} set={setMine} />}
        <Button type="submit" disabled={!over && name.trim() === ''}>
          {over ? 'Change the template' : 'Keep as a template'}
        </Button>
      </form>
      {known && (
        <p className="mt-2 text-ochre-text">
          {known.usedIn.length === 0
            ? 'No email was begun from it yet.'
            : `Emails begun from it (${known.usedIn.map((u) => u.name).join(', ')}) are copies: they stay as they are, and new ones begin as this one.`}
        </p>
      )}
    </Dialog>
  );
}
