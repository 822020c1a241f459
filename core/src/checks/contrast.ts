import { AA, AA_LARGE, coloursOf, contrast, hexOf, walkBlocks } from '../email/index.ts';
import { emailCheck } from './check.ts';

const rounded = (ratio: number) => Math.floor(ratio * 10) / 10;

export const poorContrast = emailCheck('poor-contrast', 'warning', ({ id, email }, { style }) =>
  walkBlocks(email.blocks).flatMap(({ block, parent }) => {
    const ground = parent?.look?.background ? hexOf(parent.look.background, style) : style.sheet;
    const colours = block.off ? null : coloursOf(block, ground, style);
    if (!colours) return [];
    const ratio = contrast(colours.words, colours.on);
    const needed = colours.large ? AA_LARGE : AA;
    if (ratio >= needed) return [];
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
