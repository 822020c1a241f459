import { compileTree, type MjmlNode } from '@ascenso/mjml-slim';
import { compileBlock } from './blocks/index.ts';
import { Masks, MASK } from './masks.ts';
import { splitAtMasks, type Program } from './program.ts';
import { partsOfRich } from './rich.ts';
import type { Email } from './schema.ts';
import type { HouseStyle } from './style.ts';

/** Length of the first text that stands in for a preview text nobody typed. */
const AUTO_PREVIEW = 140;

/** The preview text: as typed, or the first text of the email when none is. */
export function previewTemplate(email: Email): string {
  if (email.preview.trim() !== '') return email.preview;
  for (const block of email.blocks) {
    if (block.kind !== 'text') continue;
    const text = partsOfRich(block.doc).text.replace(/\s+/g, ' ').trim();
    if (text) return text.slice(0, AUTO_PREVIEW);
  }
  return '';
}

function layout(email: Email, masks: Masks, style: HouseStyle): { tree: MjmlNode; plain: string } {
  const nodes: MjmlNode[] = [];
  const plain: string[] = [];
  for (const block of email.blocks) {
    const compiled = compileBlock(block, masks, style);
    nodes.push(...compiled.nodes);
    if (compiled.plain.trim() !== '') plain.push(compiled.plain);
  }
  // A preheader of our own: the stock one goes out unescaped, white on white. The joiners keep body text out of it.
  const preheader = `<div style="display:none;max-height:0;max-width:0;overflow:hidden;mso-hide:all">${masks.html(previewTemplate(email))}${'&#847;&zwnj;&nbsp;'.repeat(20)}</div>`;
  const dark =
    '@media (prefers-color-scheme:dark){.sheet,.sheet td{background-color:#23211e!important}.sheet p,.sheet li,.sheet h1,.sheet h2,.sheet div{color:#ece7dc!important}.sheet a{color:#e8b89a!important}}';
  const tree: MjmlNode = {
    tagName: 'mjml',
    attributes: { lang: 'en' },
    children: [
      {
        tagName: 'mj-head',
        attributes: {},
        children: [
          {
            tagName: 'mj-raw',
            attributes: {},
            content:
              '<meta name="color-scheme" content="light dark"><meta name="supported-color-schemes" content="light dark">',
          },
          { tagName: 'mj-style', attributes: {}, content: dark },
        ],
      },
      {
        tagName: 'mj-body',
        attributes: { width: `${style.width}px`, 'background-color': style.page },
        children: [
          { tagName: 'mj-raw', attributes: {}, content: preheader },
          {
            tagName: 'mj-section',
            attributes: { 'background-color': style.sheet, padding: '18px 0', 'css-class': 'sheet' },
            children: [{ tagName: 'mj-column', attributes: {}, children: nodes }],
          },
          {
            tagName: 'mj-raw',
            attributes: {},
            content: `<img src="${masks.mask({ kind: 'open' })}" width="1" height="1" alt="" style="display:block;border:0">`,
          },
        ],
      },
    ],
  };
  return { tree, plain: `${plain.join('\n\n')}\n` };
}

/** Takes out the white space between tags, which is 28% of the output and shows nowhere. */
function squeeze(html: string): string {
  return html.replace(/\n\s+/g, '\n').replace(/>\n+</g, '><').trim();
}

/**
 * Compiles an email to its program: blocks and house style to a tree, every moving thing masked by a plain word, laid
 * out, squeezed, split at the masks. Pure and the same in Node and in a web worker. Throws CompileError when a merge
 * field stands where no value may go.
 */
export async function compileEmail(email: Email, style: HouseStyle): Promise<Program> {
  const masks = new Masks();
  const { tree, plain } = layout(email, masks, style);
  const subject = masks.plain(email.subject);
  const preview = masks.plain(previewTemplate(email));
  const html = squeeze((await compileTree(tree)).html);
  const program: Program = { subject: [], preview: [], html: [], text: [], fields: [], links: [], bytes: 0 };
  program.subject = splitAtMasks(subject, masks.moving, program.fields, 'plain');
  program.preview = splitAtMasks(preview, masks.moving, program.fields, 'plain');
  program.html = splitAtMasks(html, masks.moving, program.fields, 'html');
  program.text = splitAtMasks(plain, masks.moving, program.fields, 'plain');
  const names = new RegExp(MASK.source, 'g');
  program.links = masks.links.map((l) => ({ ...l, label: l.label.replace(names, '…') }));
  program.bytes = program.html.reduce((sum, p) => sum + (typeof p === 'string' ? utf8Length(p) : 0), 0);
  return program;
}

function utf8Length(text: string): number {
  let bytes = 0;
  for (const char of text) {
    const code = char.codePointAt(0) as number;
    bytes += code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
  }
  return bytes;
}
