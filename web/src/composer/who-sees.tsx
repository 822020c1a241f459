import {
  type Block,
  chainsOf,
  type Column,
  type Condition,
  describe,
  type Email,
  insideOf,
  partsOfRich,
  walkBlocks,
  type When,
} from '@ascenso/core';
import { blockParts, blockTitle, findBlock } from '@ascenso/core';
import { useSeenQuery } from './endpoints.ts';
import { readAs, useAct } from '../app/store.ts';
import { ConditionEditor } from '../conditions/index.ts';
import { Button, Chip, number } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { useNames } from '../ui/names.ts';
import { useComposer } from './context.ts';
import { useSet } from './use-set.ts';

export interface Version {
  /** Block that it leads to. */
  block: string;
  words: string;
  condition: Condition | null;
}

/** The chain that a block belongs to, or undefined for one that everybody sees. */
function chainOf(blocks: readonly Block[], id: string): Version[] | undefined {
  for (const link of chainsOf(blocks))
    if ('chain' in link && link.chain.some((c) => c.item.id === id))
      return link.chain.map(({ item, condition }) => ({ block: item.id, words: blockTitle(item), condition }));
  return undefined;
}

/** How many people see each version of a chain, somebody to read it as, and what is odd about it. */
export function Seen({ versions }: { versions: Version[] }) {
  const { doc, select } = useComposer();
  const names = useNames(doc);
  const dispatch = useAct();
  const { data } = useSeenQuery(versions.map((v) => v.condition));
  return (
    <ul className="flex flex-col divide-y divide-line">
      {versions.map((v, i) => {
        const seen = data?.versions[i];
        const everybody = data && seen?.count === data.total && data.total > 0;
        return (
          <li key={v.block + i} className="flex items-start gap-3 py-2">
            <div className="min-w-0 flex-1">
              <p>
                <button
                  type="button"
                  onClick={() => select(v.block)}
                  className="max-w-full truncate font-semibold hover:underline"
                >
                  {v.words}
                </button>
              </p>
              <p className="text-ink-2">
                {v.condition ? describe(v.condition, names) : versions.length > 1 ? 'everybody else' : 'everybody'}
              </p>
              {seen && seen.taken > 0 && (
                <p className="text-[13px] text-ochre-text">
                  {number(seen.taken)} more fit this too, but see an earlier version.
                </p>
              )}
              {everybody && v.condition && (
                <p className="text-[13px] text-ochre-text">Everybody sees it: the condition keeps nobody away.</p>
              )}
            </div>
            {!data ? (
              <span className="text-ink-2">Counting …</span>
            ) : seen?.count === null || !seen ? (
              <span className="text-ink-2">Asked when it is sent</span>
            ) : seen.count === 0 ? (
              <Chip tone="fix">Nobody sees it</Chip>
            ) : (
              <span className="tabular-nums">
                {number(seen.count)} of {number(data.total)}
              </span>
            )}
            {seen?.example && (
              <Button
                onClick={() => {
                  dispatch(readAs(seen.example));
                  select(v.block);
                }}
              >
                Read as one
              </Button>
            )}
          </li>
        );
      })}
    </ul>
  );
}

/** Every chain of an email, and each stretch and column that only some see. */
export function versionsIn(email: Email): Version[][] {
  const lists = [
    email.blocks,
    ...walkBlocks(email.blocks).flatMap(({ block }) => insideOf(block).map((l) => l.blocks)),
  ];
  const chains = lists.flatMap((blocks) =>
    chainsOf(blocks).flatMap((link) =>
      'chain' in link
        ? [link.chain.map(({ item, condition }) => ({ block: item.id, words: blockTitle(item), condition }))]
        : [],
    ),
  );
  const parts = walkBlocks(email.blocks).flatMap(({ block }): Version[][] => [
    ...blockParts(block).rich.flatMap((r) =>
      partsOfRich(r.doc).only.map((o) => [
        { block: block.id, words: `A stretch of “${blockTitle(block)}”`, condition: o.condition },
      ]),
    ),
    ...insideOf(block).flatMap((l, i) =>
      l.condition ? [[{ block: block.id, words: `Column ${i + 1}`, condition: l.condition }]] : [],
    ),
  ]);
  return [...chains, ...parts];
}

/** Who sees a block: everyone, or one version of several. */
export function WhenPanel({ block }: { block: Block }) {
  const { step, doc } = useComposer();
  const set = useSet(block);
  const found = findBlock(step.email.blocks, block.id);
  const before = found?.siblings[found.index - 1]?.when;
  const follows = before !== undefined && before.chain !== 'else';
  const { when } = block;
  const condition = when && 'condition' in when ? when.condition : null;
  const none: Condition = { kind: 'tag', tag: '', has: true };
  const chain = found && chainOf(found.siblings, block.id);
  const choose = (value: string) => {
    const next: When | null =
      value === 'everyone'
        ? null
        : value === 'else'
          ? { chain: 'else' }
          : { chain: value as 'if' | 'elseif', condition: condition ?? none };
    set('when', next);
  };
  return (
    <section className="flex flex-col gap-3 border-t border-line pt-3">
      <Choice
        label="Who sees it"
        part="who sees it"
        value={when?.chain ?? 'everyone'}
        choose={choose}
        of={[
          { value: 'everyone', label: 'everyone' },
          { value: 'if', label: 'only if …' },
          ...(follows || when?.chain === 'elseif'
            ? [{ value: 'elseif', label: 'instead of the one above, if …' }]
            : []),
          ...(follows || when?.chain === 'else' ? [{ value: 'else', label: 'everybody else' }] : []),
        ]}
      />
      {when && when.chain !== 'else' && (
        <ConditionEditor
          value={condition}
          scope="visit"
          doc={doc}
          sentence={(words) => `Seen by whoever ${words}.`}
          none="Say who."
          save={(c) => set('when', c ? { chain: when.chain, condition: c } : null)}
        />
      )}
      {chain && <Seen versions={chain} />}
      <Choice
        label="Where it shows"
        value={block.only ?? ''}
        choose={(v) => set('only', v || null)}
        of={[
          { value: '', label: 'phone and desktop' },
          { value: 'phone', label: 'on a phone only' },
          { value: 'desktop', label: 'on a desktop only' },
        ]}
      />
    </section>
  );
}

/** Who sees one column; the others take its room. */
export function ColumnCondition({ column, save }: { column: Column; save: (c: Condition | null) => void }) {
  const { doc } = useComposer();
  return (
    <details open={column.condition !== undefined}>
      <summary className="cursor-pointer text-[13px] text-ink-2">
        {column.condition ? 'Only some see it' : 'Everyone sees it'}
      </summary>
      <div className="mt-2">
        <ConditionEditor
          value={column.condition ?? null}
          scope="visit"
          doc={doc}
          sentence={(words) => `Seen by whoever ${words}; for the others, the rest grows wider.`}
          none="Everyone sees it."
          save={save}
        />
      </div>
    </details>
  );
}
