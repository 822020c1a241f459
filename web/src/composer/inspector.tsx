import { blockKinds, isLocked, mayHide, type Block } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct } from '../app/store.ts';
import { Button } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { copyBlocks, duplicateBlocks, outermost, removeBlocks, wrapBlocks } from './actions.ts';
import { useComposer } from './context.ts';
import { cameFrom, takeApart } from './sharing.ts';
import { titleOf } from './outline.tsx';
import { BlockPanel } from './panels/index.tsx';
import { LookPanel } from './panels/parts.tsx';
import { useSet } from './use-set.ts';
import { WhenPanel } from './who-sees.tsx';

type SharedBlock = Extract<Block, { kind: 'shared' }>;

/** Several blocks at once: what can be done to all of them. */
function Several({ share }: { share: () => void }) {
  const { step, chosen, show } = useComposer();
  const dispatch = useAct();
  const n = outermost(step, chosen).length;
  return (
    <section className="flex flex-col gap-2 border-t border-line p-4">
      <h2 className="text-[16px] font-bold">{n} blocks</h2>
      <Button
        onClick={() => {
          const made = dispatch(wrapBlocks(step, chosen));
          if (made) show(made);
        }}
      >
        Put them into a section
      </Button>
      <Button onClick={share}>Into the library …</Button>
      <Button
        onClick={() => {
          const made = dispatch(duplicateBlocks(step, chosen));
          if (made) show(made);
        }}
      >
        Duplicate
      </Button>
      <Button onClick={() => copyBlocks(step, chosen)}>Copy</Button>
      <Button tone="danger" onClick={() => dispatch(removeBlocks(step, chosen))}>
        Delete
      </Button>
    </section>
  );
}

/** Settings of the selected block: what it says, who sees it, how it looks; the same order for every kind. */
export function Inspector({ share }: { share: () => void }) {
  const { around, selected: block, chosen } = useComposer();
  if (chosen.size > 1) return <Several share={share} />;
  if (!block) return <p className="border-t border-line p-4 text-ink-2">Choose a block to set it up.</p>;
  const shared = block.kind === 'shared' ? around.shared.find((s) => s.id === block.shared) : undefined;
  return (
    <section
      key={block.id}
      data-settings={block.id}
      aria-label="Settings of the block"
      className="flex flex-col gap-3 border-t border-line p-4"
    >
      <Head key={block.id} />
      <BeingChanged block={block} share={share} />
      <BlockPanel block={block} />
      <Shown block={block} />
      {block.kind === 'shared' && shared && <Apart block={block} shared={shared} />}
      {!isLocked(block) && <WhenPanel block={block} />}
      <LookPanel block={block} />
      {!isLocked(block) && block.kind !== 'shared' && cameFrom(block) === undefined && (
        <Button tone="quiet" className="self-start" onClick={share}>
          Into the library …
        </Button>
      )}
    </section>
  );
}

/** Which parts of a block are shown: what is switched off is kept, and comes back as it was. */
function Shown({ block }: { block: Block }) {
  const set = useSet(block);
  const fields = Object.entries(mayHide(block));
  if (fields.length === 0) return null;
  const hidden = block.hidden ?? [];
  const put = (next: string[]) => set('hidden', next.length > 0 ? next : null);
  return (
    <fieldset>
      <legend className="mb-1 text-[12px] text-ink-2">Shown of it</legend>
      <div className="flex flex-wrap gap-x-4 gap-y-1">
        {fields.map(([field, words]) => (
          <label key={field} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={!hidden.includes(field)}
              onChange={(e) => put(e.target.checked ? hidden.filter((f) => f !== field) : [...hidden, field])}
            />
            {words}
          </label>
        ))}
      </div>
    </fieldset>
  );
}

function Head() {
  const { selected: block, around } = useComposer();
  const set = useSet(block as NonNullable<typeof block>);
  if (!block) return null;
  return (
    <div>
      <p className="flex justify-between text-[12px] text-ink-2">
        {blockKinds[block.kind].name} block
        <kbd title="Comes here from the block" className="font-sans text-[11px]">
          Alt Enter
        </kbd>
      </p>
      <SavedText
        label="Name in the outline"
        value={block.name ?? ''}
        placeholder={titleOf(block, around)}
        save={(v) => set('name', v.trim() || null)}
      />
    </div>
  );
}

/** Where a shared block stands: change it for all emails, or have it to oneself. */
function Apart({ block, shared }: { block: SharedBlock; shared: { name: string; blocks: Block[] } }) {
  const { step, show } = useComposer();
  const dispatch = useAct();
  const go = (linked: boolean) => {
    const commands = takeApart(step, block, shared, linked);
    const made = commands.find((c) => c.type === 'block.insert');
    if (dispatch(edit(commands)) && made?.type === 'block.insert') show(made.block.id);
  };
  return (
    <div className="flex flex-wrap gap-2">
      <Button onClick={() => go(true)}>Change it everywhere</Button>
      <Button onClick={() => go(false)}>Unlink it here</Button>
    </div>
  );
}

/** A shared block that is open to be changed: the change goes everywhere, or stays here. */
function BeingChanged({ block, share }: { block: Block; share: () => void }) {
  const { around } = useComposer();
  const set = useSet(block);
  const origin = cameFrom(block);
  const source = around.shared.find((s) => s.name === origin);
  if (!source) return null;
  return (
    <div className="flex flex-col gap-2 rounded-control bg-ochre-tint px-3 py-2 text-ochre-text">
      <p>
        “{source.name}” is open to be changed. So far only this email has what you do; it stands in{' '}
        {source.usedIn.length === 1 ? '1 place' : `${source.usedIn.length} places`}.
      </p>
      <div className="flex flex-wrap gap-2">
        <Button tone="main" onClick={share}>
          Done: change it everywhere …
        </Button>
        <Button onClick={() => set('name', source.name)}>Unlink it here</Button>
      </div>
    </div>
  );
}
