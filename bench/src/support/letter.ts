import {
  compileEmail,
  paragraphs,
  plainStyle,
  type Block,
  type Email,
  type MergeContext,
  type Piece,
  type Program,
} from '@ascenso/core';

const field = (path: string, fallback: string) => ({ path, fallback, filters: [] });
const text = (id: string, ...parts: Parameters<typeof paragraphs>[0][number][]): Block => ({
  kind: 'text',
  id,
  doc: paragraphs(parts),
});

/** Chosen so that the message weighs what the design's figures were measured with, about 66 kB. */
const EVENINGS = 32;

/** A long email as a workshop writes them: blocks of text with merge fields in between, and four links; its size is told with the figures. */
export function letter(): Email {
  const blocks: Block[] = [];
  for (let i = 0; i < EVENINGS; i++)
    blocks.push(
      {
        kind: 'heading',
        id: `h${i}`,
        text: `Evening ${i + 1}, {{ subscriber.first_name | default: "reader" }}`,
        level: 2,
      },
      text(
        `t${i}`,
        'Fold along the grain — always. ',
        field('subscriber.skill', 'new'),
        ' binders first press the fold flat with a bone folder, then turn the sheet. Leave the thread a hand longer than the spine, wax it twice, and pull along the fold, never across it.',
      ),
      text(
        `u${i}`,
        'What you need this evening: two sheets of text paper, a needle, and the thread that came with your kit. Your plan is ',
        field('subscriber.plan', 'none'),
        '.',
      ),
      { kind: 'divider', id: `d${i}` },
    );
  for (let i = 0; i < 4; i++)
    blocks.push({
      kind: 'button',
      id: `b${i}`,
      label: `See kit ${i + 1}`,
      address: `https://foldwell.example/kits/${i}`,
    });
  blocks.push({ kind: 'footer', id: 'f', reason: 'You asked for our workshop letters.' });
  return {
    sender: '',
    subject: 'Evening for {{ subscriber.first_name | default: "reader" }} 📖',
    preview: 'A minute with the needle',
    blocks,
  };
}

export const program = (): Promise<Program> =>
  compileEmail(letter(), { ...plainStyle, postalAddress: 'Foldwell Bindery, Rua das Gáveas 12, Lisboa' });

/** Person n, as merge fields read them. */
export const context = (n: number): MergeContext => ({
  subscriber: {
    first_name: `Marta ${n}`,
    skill: n % 2 ? 'new' : 'seasoned',
    plan: 'paper club',
    email: `reader${n}@readers.example`,
  },
  event: {},
  sender: {},
});

/** The program written out as one Liquid template: conditions as ifs, the repeat as a for. */
export function asLiquid(p: Program, pieces: readonly Piece[], inItem = false): string {
  const fieldIn = (fields: Program['fields'], f: number) =>
    `{{ ${fields[f]?.path} | default: "${fields[f]?.fallback ?? ''}" }}`;
  return pieces
    .map((piece): string => {
      if (typeof piece === 'string') return piece;
      if ('s' in piece) return `{{ addresses.${piece.s} }}`;
      if ('chain' in piece)
        return `${piece.arms.map((arm, i) => `{% ${i === 0 ? 'if' : 'elsif'} picks.c${piece.chain} == ${i} %}${asLiquid(p, arm, inItem)}`).join('')}{% endif %}`;
      if ('each' in piece) return `{% for item in event.lines %}${asLiquid(p, piece.row, true)}{% endfor %}`;
      if ('cell' in piece || 'led' in piece) return asLiquid(p, piece.pieces, inItem);
      if ('given' in piece)
        return `{% if ${(piece.r === undefined ? p.fields : (p.repeats?.[piece.r]?.fields ?? []))[piece.given]?.path} %}${asLiquid(p, piece.pieces, inItem)}{% endif %}`;
      if ('t' in piece) return '{{ addresses.timer }}';
      if ('l' in piece) return piece.r === undefined ? `{{ addresses.link }}/${piece.l}` : '{{ item.page }}';
      return fieldIn(piece.r === undefined ? p.fields : (p.repeats?.[piece.r]?.fields ?? []), piece.f);
    })
    .join('');
}
