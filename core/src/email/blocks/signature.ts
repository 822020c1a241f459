import { z } from 'zod';
import { blockBase, type BlockKind, leaf, linkStyle, node, parts, textAttributes, textColours } from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('signature'),
  /** What of the sender's profile is shown; what the profile has not is left out. */
  shows: z.object({ photo: z.boolean(), role: z.boolean(), phone: z.boolean(), page: z.boolean() }),
  /** Words above the name: "Until tomorrow,". A template. */
  greeting: z.string().max(200),
});

/** Filled from the sender of the email, so that a colleague's copy carries the colleague's name. */
export const signatureBlock: BlockKind<'signature', typeof schema> = {
  ...leaf,
  kind: 'signature',
  name: 'Signature',
  about: 'The sender’s name, photo, phone and page',
  schema,
  looks: ['size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({
    id: newId(),
    kind: 'signature',
    shows: { photo: true, role: true, phone: false, page: true },
    greeting: '',
  }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const { shows } = block;
    const name = masks.html('{{ sender.name }}');
    const soft = `color:${style.soft};font-size:.88em`;
    const line = (path: string, inside: string) =>
      masks.given(path, `<br><span class="soft" style="${soft}">${inside}</span>`);
    const page = shows.page ? masks.link('{{ sender.page }}', 'Sender’s page') : '';
    const words = [
      `<strong>${name}</strong>`,
      shows.role ? line('sender.role', masks.html('{{ sender.role }}')) : '',
      shows.phone ? line('sender.phone', masks.html('{{ sender.phone }}')) : '',
      shows.page
        ? line('sender.page', `<a href="${page}" style="${linkStyle(canvas)}">${masks.html('{{ sender.page }}')}</a>`)
        : '',
    ].join('');
    const photo = shows.photo
      ? masks.given(
          'sender.photo',
          `<td style="width:64px;padding:0 14px 0 0;vertical-align:top"><img src="${masks.mask({ kind: 'base' })}/f/${masks.html('{{ sender.photo }}')}" alt="${name}" width="64" style="display:block;width:64px;height:auto;border:0;border-radius:32px"></td>`,
        )
      : '';
    const greeting = block.greeting ? `<p style="margin:0 0 .8em">${masks.html(block.greeting)}</p>` : '';
    const html = `${greeting}<table role="presentation" cellpadding="0" cellspacing="0" style="border-collapse:collapse;font:inherit;color:inherit"><tr>${photo}<td style="vertical-align:top;padding:0">${words}</td></tr></table>`;
    const plainLine = (path: string) => masks.given(path, `\n${masks.plain(`{{ ${path} }}`)}`);
    const plain = [
      block.greeting ? `${masks.plain(block.greeting)}\n` : '',
      masks.plain('{{ sender.name }}'),
      shows.role ? plainLine('sender.role') : '',
      shows.phone ? plainLine('sender.phone') : '',
      shows.page ? masks.given('sender.page', `\n${page}`) : '',
    ].join('');
    return { nodes: [node('mj-text', textAttributes(block.look, canvas, [12, 12]), html)], plain };
  },
  parts: (block) =>
    parts({
      templates: [{ place: 'greeting', source: block.greeting }],
      profile: (['photo', 'role', 'phone', 'page'] as const)
        .filter((name) => block.shows[name])
        .map((name) => ({ place: 'what it shows', name })),
    }),
  title: () => 'Signature',
  colours: (block, ground, style) => textColours(block.look, ground, style),
  sample: (newId) => ({
    id: newId(),
    kind: 'signature',
    shows: { photo: true, role: true, phone: true, page: true },
    greeting: 'Until tomorrow,',
  }),
};
