import {
  AA,
  AA_LARGE,
  coloursOf,
  blockParts,
  contrast,
  hexOf,
  isLargeWord,
  partsOfRich,
  walkBlocks,
  type Block,
  type HouseStyle,
} from '../email/index.ts';
import { emailCheck, type Finding } from './check.ts';

const rounded = (ratio: number) => Math.floor(ratio * 10) / 10;

type Weak = Omit<Finding, 'check' | 'level' | 'place'> & { block: string; part: string | null };

/** The stretch of a text whose own colour stands out least from the block's ground, as a finding; none where all can be read. */
function weakestWords(block: Block, ground: string, style: HouseStyle): Weak[] {
  const on = block.look?.background ? hexOf(block.look.background, style) : ground;
  const weak = blockParts(block)
    .rich.flatMap(({ doc }) => partsOfRich(doc).looks)
    .flatMap((look) => {
      const needed = isLargeWord(look, style) ? AA_LARGE : AA;
      const ratio = look.color ? contrast(style[look.color], on) : needed;
      return ratio < needed ? [{ ratio, needed }] : [];
    })
    .sort((a, b) => a.ratio - b.ratio)[0];
  if (!weak) return [];
  return [
    {
      block: block.id,
      part: 'text',
      message: `Words with a colour of their own stand out too little from their ground: ${rounded(weak.ratio)} to 1, and ${weak.needed} to 1 is needed.`,
      fix: 'Give them another colour, or none.',
    },
  ];
}

export const poorContrast = emailCheck('poor-contrast', 'warning', ({ id, email }, { style }) =>
  walkBlocks(email.blocks).flatMap(({ block, parent }): Weak[] => {
    const ground = parent?.look?.background ? hexOf(parent.look.background, style) : style.sheet;
    const colours = block.off ? null : coloursOf(block, ground, style);
    const words = block.off ? [] : weakestWords(block, ground, style);
    if (!colours) return words;
    const ratio = contrast(colours.words, colours.on);
    const needed = colours.large ? AA_LARGE : AA;
    if (ratio >= needed) return words;
    const own = block.look?.color !== undefined || block.look?.background !== undefined;
    return [
      {
        block: block.id,
        part: own ? 'color' : null,
        message: `The words of this ${block.kind} stand out too little from their ground: ${rounded(ratio)} to 1, and ${needed} to 1 is needed.`,
        fix: own ? 'Choose a darker or a lighter colour.' : 'Change the colours of the house style.',
        ...(own
          ? {
              repair: {
                label: 'Back to the house style',
                commands: [
                  {
                    type: 'block.set' as const,
                    step: id,
                    block: block.id,
                    field: 'look',
                    value: { ...block.look, color: undefined, background: undefined },
                  },
                ],
              },
            }
          : {}),
      },
    ];
  }),
);
