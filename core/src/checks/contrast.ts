import { AA, AA_LARGE, contrast, hexOf, walkBlocks, type Block, type HouseStyle } from '../email/index.ts';
import { emailCheck } from './check.ts';

/** Colours of the words of a block on the ground they stand on, and whether the words are large; null where it has none. */
function coloursOf(
  block: Block,
  ground: string,
  style: HouseStyle,
): { words: string; on: string; large: boolean } | null {
  const { look } = block;
  const own = (standard: string) => (look?.color ? hexOf(look.color, style) : standard);
  const on = look?.background ? hexOf(look.background, style) : ground;
  switch (block.kind) {
    case 'text':
    case 'quote':
    case 'list':
    case 'table':
    case 'article':
    case 'signature':
      return { words: own(style.text), on, large: (look?.size ?? style.size) >= 24 };
    case 'heading':
      return {
        words: own(style.accent),
        on,
        large: (look?.size ?? (block.level === 1 ? style.titleSize : style.headingSize)) >= 18.66,
      };
    case 'button':
      return {
        words: own(style.onAccent),
        on: look?.background ? on : style.accent,
        large: (look?.size ?? style.size) >= 18.66,
      };
    case 'social':
      return { words: own(style.link), on, large: false };
    case 'footer':
      return { words: own(style.soft), on, large: false };
    default:
      return null;
  }
}

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
