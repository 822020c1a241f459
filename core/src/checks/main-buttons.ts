import { chainsOf, insideOf, modeOf, type Block } from '../email/index.ts';
import { emailCheck } from './check.ts';
import { buttonTargets, MANY_BUTTONS } from './links.ts';

type Button = Extract<Block, { kind: 'button' }>;

/** A button with the versions it stands in: which chain, and which arm of it. */
interface Placed {
  button: Button;
  arms: ReadonlyMap<string, number>;
}

/** Buttons in the house's own colour. Those in columns are choices beside each other, and mean to be. */
function mainButtons(blocks: readonly Block[], list = '', outer: Placed['arms'] = new Map()): Placed[] {
  return chainsOf(blocks).flatMap((link, n) => {
    const items = 'alone' in link ? [link.alone] : link.chain.map((c) => c.item);
    return items.flatMap((block, arm): Placed[] => {
      if (block.off || block.kind === 'columns') return [];
      const arms = items.length > 1 ? new Map([...outer, [`${list} ${n}`, arm]]) : outer;
      if (block.kind === 'button') return block.look?.background ? [] : [{ button: block, arms }];
      return insideOf(block).flatMap((l) => mainButtons(l.blocks, l.id, arms));
    });
  });
}

/** Whether no reader sees both: they stand in two versions of one place. */
const neverTogether = (a: Placed, b: Placed) =>
  [...a.arms].some(([chain, arm]) => b.arms.has(chain) && b.arms.get(chain) !== arm);

/** Two buttons of the same weight that lead to two places: the reader has to choose, and many do neither (common practice, no published source). */
export const twoMainButtons = emailCheck('two-main-buttons', 'warning', ({ email, name }) => {
  // Where there are many, that is told instead.
  if (modeOf(email) !== 'designed' || buttonTargets(email).size > MANY_BUTTONS) return [];
  const all = mainButtons(email.blocks);
  const rival = all.find((b, i) =>
    all.slice(0, i).some((a) => a.button.address !== b.button.address && !neverTogether(a, b)),
  );
  return rival
    ? [
        {
          block: rival.button.id,
          part: 'address',
          message: `“${name}” has more than one main button, and they lead to different places.`,
          fix: 'Keep the one that matters most. Make the other a link in the text, or give it a quieter ground under Look.',
        },
      ]
    : [];
});
