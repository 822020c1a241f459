import {
  attributeOf,
  chainsOf,
  contentOf,
  elementsOf,
  emptinessOf,
  insideOf,
  modeOf,
  PICKED,
  walkBlocks,
  type Block,
  type Email,
} from '../email/index.ts';
import { mapRepeat, showsItems } from '../sequence/index.ts';
import { emailCheck, type EmailFinding } from './check.ts';

/** Width of a phone's screen that everything has to fit into, px. */
const PHONE = 320;
/** A word as long as this does not fit into a line on a phone (at 17 px). */
const LONG_WORD = 32;

const widthOf = (value: string | undefined, style: string | undefined): number => {
  const own = /^\d+$/.exec(value ?? '')?.[0];
  const styled = /(?:^|;)\s*(?:min-)?width:\s*(\d+)px/.exec(style ?? '')?.[1];
  return Number(styled ?? own ?? 0);
};

/** What would push the page sideways on a phone. */
export const sideScroll = emailCheck('side-scroll', 'warning', ({ email }) => {
  const { html, texts, templates } = contentOf(email);
  const wide = html.flatMap(({ source, block, place }): EmailFinding[] => {
    const found = elementsOf(source).find((e) => {
      const style = attributeOf(e, 'style');
      return widthOf(attributeOf(e, 'width'), style) > PHONE && !/max-width:\s*100%|width:\s*100%/.test(style ?? '');
    });
    return found
      ? [
          {
            block,
            part: place,
            message: `A ${found.tagName} in the source is wider than a phone: it scrolls sideways.`,
            fix: 'Give it style="width:100%;max-width:…px".',
          },
        ]
      : [];
  });
  const long = [
    ...texts,
    ...templates
      .filter((t) => t.block !== null && t.place !== 'picture address' && t.place !== 'source')
      .map((t) => ({ ...t, text: t.source })),
  ].flatMap(({ text, block, place }): EmailFinding[] => {
    const word = text
      .replace(/\{\{[^{}\n]*\}\}/g, ' ')
      .split(/[\s\u00ad-]+/)
      .find((w) => w.length > LONG_WORD);
    return word
      ? [
          {
            block,
            part: place,
            message: `“${word.slice(0, 24)}…” has no place to break: on a phone it is cut off or scrolls sideways.`,
            fix: 'Link a few words instead of writing the address.',
          },
        ]
      : [];
  });
  const tables = walkBlocks(email.blocks).flatMap(({ block }): EmailFinding[] =>
    block.kind === 'table' && !block.off && (block.rows[0]?.length ?? 0) > 4
      ? [
          {
            block: block.id,
            message: `This table has ${block.rows[0]?.length} columns: a phone has room for about four.`,
            fix: 'Leave columns out, or make two tables.',
          },
        ]
      : [],
  );
  return [...wide, ...long, ...tables];
});

function lists(email: Email): Block[][] {
  const inner = walkBlocks(email.blocks).flatMap(({ block }) => insideOf(block).map((l) => l.blocks));
  return [email.blocks, ...inner];
}

/** An "else" that follows nothing is shown to everyone; a chain without an "if" asks from its second part on. */
export const brokenChain = emailCheck('broken-chain', 'error', ({ id, email }) =>
  lists(email).flatMap((blocks) => {
    const found: EmailFinding[] = [];
    for (const link of chainsOf(blocks)) {
      const first = 'alone' in link ? link.alone : link.chain[0]?.item;
      if (!first?.when || first.when.chain === 'if') continue;
      const what = first.when.chain === 'else' ? 'else' : 'else if';
      found.push({
        block: first.id,
        part: 'who sees it',
        message: `“${what}” follows no block that says “if”.`,
        fix: 'Move it behind the block it belongs to, or show it to everyone.',
        repair: {
          label: 'Show it to everyone',
          commands: [{ type: 'block.set', step: id, block: first.id, field: 'when', value: null }],
        },
      });
    }
    return found;
  }),
);

/** Blocks without anything in them. */
export const emptyBlock = emailCheck('empty-block', 'warning', ({ id, email, name }) =>
  walkBlocks(email.blocks).flatMap(({ block }): EmailFinding[] => {
    const lack = block.off ? null : emptinessOf(block);
    if (!lack) return [];
    return [
      {
        block: block.id,
        part: lack.part,
        level: lack.level,
        message: `${lack.what} in “${name}” ${lack.is}.`,
        fix: lack.fix,
        repair: { label: 'Delete the block', commands: [{ type: 'block.remove', step: id, block: block.id }] },
      },
    ];
  }),
);

export const brokenParts = emailCheck('broken-part', 'error', ({ id, email }, { items, shared, mappings }) =>
  walkBlocks(email.blocks).flatMap(({ block }): EmailFinding[] => {
    if (block.off) return [];
    if (block.kind === 'shared' && !Object.hasOwn(shared, block.shared))
      return [
        {
          block: block.id,
          part: 'shared block',
          message: block.shared ? 'This shared block is no longer in the library.' : 'No shared block is chosen here.',
          fix: 'Choose one, or delete the block.',
        },
      ];
    if (block.kind === 'repeat' && block.list === PICKED && !block.picked?.length)
      return [
        {
          block: block.id,
          part: 'list',
          message: 'This repeat goes through picked articles, and none is picked.',
          fix: 'Pick an article by the address of its page, or delete the block.',
        },
      ];
    if (block.kind === 'repeat' && block.list !== PICKED && !Object.hasOwn(items, block.list))
      return [
        {
          block: block.id,
          part: 'list',
          message: block.list
            ? `What starts this sequence brings no list “${block.list}”.`
            : 'This repeat does not say which list it goes through.',
          fix: 'Choose a list of the event or of the person.',
        },
      ];
    // Parts without a field draw nothing: the email would arrive without what it is about.
    if (block.kind === 'repeat' && !showsItems(block)) {
      const mapping = mappings?.[block.list];
      return [
        {
          block: block.id,
          part: 'list',
          message: 'This repeat shows nothing of its items: none of its parts has a field.',
          fix: 'Choose which field is the title, the picture, the price.',
          ...(mapping?.title
            ? {
                repair: {
                  label: `Take “${mapping.title}” and what goes with it`,
                  commands: mapRepeat(id, block.id, block.list, mapping),
                },
              }
            : {}),
        },
      ];
    }
    return [];
  }),
);

/** What an email without a HTML part cannot show. */
export const lostInText = emailCheck('lost-in-text', 'warning', ({ email, name }) =>
  modeOf(email) === 'text'
    ? contentOf(email)
        .pictures.filter((p) => p.file || p.address)
        .map((p) => ({
          block: p.block,
          message: `“${name}” goes out as text only: this picture is not in it.`,
          fix: 'Say it in words, or choose another way to make the email.',
        }))
    : [],
);
