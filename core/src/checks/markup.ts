import { attributeOf, contentOf, elementsOf } from '../email/index.ts';
import { emailCheck, type EmailFinding } from './check.ts';

/**
 * Elements that mail programs take out or refuse, and that no email of ours sends: scripts, frames, forms and what runs
 * beside them (common practice, no published source; HTML itself allows them).
 */
const NEVER = new Set(['script', 'iframe', 'frame', 'frameset', 'form', 'object', 'embed', 'applet', 'base']);

type Element = ReturnType<typeof elementsOf>[number];

/** What an element does that no email may, in words; null for one that may stand. */
function fault(e: Element): string | null {
  if (NEVER.has(e.tagName)) return `<${e.tagName}>`;
  if (e.tagName === 'meta' && /^refresh$/i.test(attributeOf(e, 'http-equiv')?.trim() ?? ''))
    return '<meta> that leads on by itself';
  const handler = e.attrs.find((a) => /^on/i.test(a.name));
  if (handler) return `${handler.name}="…" on <${e.tagName}>`;
  const address = e.attrs.find(
    (a) => /^(href|src|action)$/i.test(a.name) && /^\s*(javascript|vbscript):/i.test(a.value),
  );
  return address ? `an address that runs a script on <${e.tagName}>` : null;
}

/** Scripts, frames, forms and event handlers in the source of a block or of the whole email. */
export const activeMarkup = emailCheck('active-markup', 'error', ({ email }) =>
  contentOf(email).html.flatMap(({ source, block, place }): EmailFinding[] => {
    const found = elementsOf(source).flatMap((e) => fault(e) ?? []);
    return found[0] === undefined
      ? []
      : [
          {
            block,
            part: place,
            message: `The source holds ${[...new Set(found)].slice(0, 3).join(', ')}: mail programs take it out, or the whole email for an attack.`,
            fix: 'Take it out. A link to a page of yours can do what it did.',
          },
        ];
  }),
);
