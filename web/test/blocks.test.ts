import fc from 'fast-check';
import { describe, expect, test, vi } from 'vitest';
import {
  applyCommands,
  blankEmail,
  blankSequence,
  blockKinds,
  blockList,
  copyBlock,
  findBlock,
  findStep,
  insideOf,
  isLocked,
  mayStand,
  walkBlocks,
  type Block,
  type BlockKindName,
  type Command,
  type EmailStep,
} from '@ascenso/core';

vi.mock('sonner', () => ({ toast: Object.assign(vi.fn(), { error: vi.fn() }) }));
vi.stubGlobal('window', new EventTarget());
vi.stubGlobal('fetch', () => new Promise(() => undefined));
const { store } = await import('../src/app/store.ts');
const draft = await import('../src/drafts/draft.ts');
const act = await import('../src/composer/actions.ts');
const { placeAfter, placeFor } = await import('../src/composer/places.ts');

let n = 0;
const newId = () => `b${++n}`;
const kinds = (Object.keys(blockKinds) as BlockKindName[]).filter((k) => k !== 'footer');
const leaf = fc
  .constantFrom(...kinds.filter((k) => k !== 'section' && k !== 'columns'))
  .map((k) => blockKinds[k].blank(newId));

/** Emails of any kind of block, in sections and columns too, with the footer at the end or without one. */
const emails: fc.Arbitrary<EmailStep> = fc
  .record({
    top: fc.array(
      fc.oneof(
        leaf,
        fc
          .array(leaf, { maxLength: 3 })
          .map(
            (all): Block =>
              ({ ...blockKinds.section.blank(newId), blocks: all.filter((b) => mayStand(b.kind, 'section')) }) as Block,
          ),
        fc.array(fc.array(leaf, { maxLength: 2 }), { minLength: 2, maxLength: 4 }).map(
          (columns): Block =>
            ({
              ...blockKinds.columns.blank(newId),
              columns: columns.map((blocks) => ({
                id: newId(),
                share: 1,
                blocks: blocks.filter((b) => mayStand(b.kind, 'column')),
              })),
            }) as Block,
        ),
      ),
      { maxLength: 6 },
    ),
    footer: fc.boolean(),
  })
  .map(({ top, footer }) => {
    const step = blankEmail(newId, 'Mail');
    step.email.blocks = [...top.map((b) => copyBlock(b, newId)), ...(footer ? [blockKinds.footer.blank(newId)] : [])];
    return step;
  });

/** Puts an email into the store as the draft that is edited. */
async function opened(step: EmailStep): Promise<() => EmailStep> {
  const id = newId();
  const answer = {
    id,
    draft: { ...blankSequence('Letters', 'letters'), steps: [step] },
    revision: 1,
    unpublished: true,
    log: [],
  };
  vi.stubGlobal('fetch', (url: string) =>
    url.endsWith('/commands') ? new Promise(() => undefined) : Promise.resolve(new Response(JSON.stringify(answer))),
  );
  await store.dispatch(draft.open(id));
  return () => findStep(store.getState().draft.doc ?? answer.draft, step.id)?.step as EmailStep;
}

const idsOf = (step: EmailStep) => walkBlocks(step.email.blocks).map((p) => p.block.id);

/** What must hold of the blocks of an email, however they came about. */
function holds(step: EmailStep): void {
  const ids = idsOf(step);
  expect(new Set(ids).size).toBe(ids.length);
  const { blocks } = step.email;
  for (const [i, b] of blocks.entries()) if (isLocked(b)) expect(i).toBe(blocks.length - 1);
  for (const { block, list } of walkBlocks(blocks).map(({ block }) => ({
    block,
    list: findBlock(blocks, block.id)?.list ?? null,
  })))
    expect([block.kind, mayStand(block.kind, blockList(blocks, list)?.inside ?? 'email')]).toEqual([block.kind, true]);
}

describe('wherever one is in an email', () => {
  test('a block of any kind is put right behind what is chosen, in the nearest place that takes it', async () => {
    await fc.assert(
      fc.asyncProperty(emails, fc.constantFrom(...kinds), fc.nat(), async (step, kind, at) => {
        const ids = idsOf(step);
        const chosen = ids.length > 0 ? (ids[at % (ids.length + 1)] ?? null) : null;
        const place = placeFor(step, kind, placeAfter(step, chosen));
        expect(mayStand(kind, blockList(step.email.blocks, place.list)?.inside ?? 'email')).toBe(true);
        const now = await opened(step);
        const made = store.dispatch(act.addBlock(step, kind, placeAfter(step, chosen)));
        expect(made).not.toBeNull();
        holds(now());
        const after = idsOf(now());
        expect(after).toContain(made);
        const found = chosen === null ? undefined : findBlock(step.email.blocks, chosen)?.block;
        // Nothing that came before what is chosen comes after the new one, and the footer stays last.
        if (found && !isLocked(found)) expect(after.indexOf(made ?? '')).toBeGreaterThan(after.indexOf(chosen ?? ''));
      }),
      { numRuns: 60 },
    );
  });

  test('moving up and down by key keeps every block, and each move can be taken back by its undo', async () => {
    await fc.assert(
      fc.asyncProperty(
        emails,
        fc.array(fc.tuple(fc.nat(), fc.constantFrom<1 | -1>(1, -1)), { maxLength: 8 }),
        async (step, moves) => {
          const now = await opened(step);
          const before = JSON.stringify(now().email.blocks);
          for (const [at, by] of moves) {
            const free = walkBlocks(now().email.blocks).filter((p) => !isLocked(p.block));
            const block = free[at % Math.max(1, free.length)]?.block;
            if (block) store.dispatch(act.moveBlock(now(), block.id, by));
            holds(now());
            expect([...idsOf(now())].sort()).toEqual([...idsOf(step)].sort());
          }
          for (let left = store.getState().draft.undo; left > 0; left--) store.dispatch(draft.undo());
          expect(JSON.stringify(now().email.blocks)).toBe(before);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('what is copied, doubled or gathered into a section gets ids of its own, and stands where it may', async () => {
    await fc.assert(
      fc.asyncProperty(emails, fc.array(fc.nat(), { minLength: 1, maxLength: 4 }), async (step, picks) => {
        const ids = idsOf(step);
        if (ids.length === 0) return;
        const chosen = new Set(picks.map((p) => ids[p % ids.length] as string));
        const now = await opened(step);
        store.dispatch(act.duplicateBlocks(now(), chosen));
        holds(now());
        act.copyBlocks(now(), chosen);
        store.dispatch(act.pasteBlocks(now(), placeAfter(now(), ids.at(-1) ?? null)));
        holds(now());
        store.dispatch(act.wrapBlocks(now(), chosen));
        holds(now());
        for (const id of ids) expect(idsOf(now())).toContain(id);
      }),
      { numRuns: 40 },
    );
  });
});

test('pasted into a column, what it does not take stands behind the columns, before the footer', async () => {
  const columns = blockKinds.columns.blank(newId);
  const inner = blockKinds.divider.blank(newId);
  columns.columns[0]?.blocks.push(inner);
  const step = blankEmail(newId, 'Mail');
  step.email.blocks = [
    blockKinds.text.blank(newId),
    blockKinds.columns.blank(newId),
    columns,
    blockKinds.footer.blank(newId),
  ];
  const now = await opened(step);
  act.copyBlocks(now(), new Set(step.email.blocks.slice(0, 2).map((b) => b.id)));
  store.dispatch(act.pasteBlocks(now(), placeAfter(now(), inner.id)));
  expect(now().email.blocks.map((b) => b.kind)).toEqual(['text', 'columns', 'columns', 'columns', 'footer']);
  holds(now());
});

test('an empty section or column takes the next block in', () => {
  const step = blankEmail(newId, 'Mail');
  const section = blockKinds.section.blank(newId);
  step.email.blocks = [section, blockKinds.footer.blank(newId)];
  const inner = insideOf(section)[0];
  expect(placeAfter(step, section.id)).toEqual({ list: inner?.id, index: 0 });
  const command: Command = {
    type: 'block.insert',
    step: step.id,
    block: blockKinds.divider.blank(newId),
    into: inner?.id ?? '',
    index: 0,
  };
  const doc = applyCommands({ ...blankSequence('Letters', 'letters'), steps: [step] }, [command]).doc;
  const filled = findStep(doc, step.id)?.step as EmailStep;
  expect(placeAfter(filled, section.id)).toEqual({ list: null, index: 1 });
});
