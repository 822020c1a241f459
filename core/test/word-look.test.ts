import { describe, expect, test } from 'vitest';
import { runChecks } from '../src/checks/index.ts';
import {
  compileEmail,
  fillProgram,
  plainStyle,
  richTextSchema,
  valuesFor,
  type HouseStyle,
} from '../src/email/index.ts';
import { context, good } from './check-case.ts';
import { sequence } from './support.ts';

const look = (color: string | null, size: string | null) => ({ type: 'look', attrs: { color, size } });
const worded = (...marks: object[]) => ({
  type: 'doc',
  content: [
    { type: 'paragraph', content: [{ type: 'text', text: 'As the block' }] },
    { type: 'paragraph', attrs: { align: 'center' }, content: [{ type: 'text', text: 'Last copies', marks }] },
  ],
});
/** An email whose last text before the footer has words of that look. */
const step = (doc: unknown, more: object = {}) =>
  good({}, [{ id: 'words', kind: 'text', doc: richTextSchema.parse(doc), ...more }]);
const style: HouseStyle = { ...plainStyle, accent: '#0b6e4f', headingSize: 26, size: 16 };

describe('words with a look of their own', () => {
  test('take colour and size from the house and stand as they are told; the plain text has none of it', async () => {
    const program = await compileEmail(step(worded(look('accent', 'large'), { type: 'bold' })).email, style);
    const addresses = { base: 'x', unsubscribe: 'x', open: 'x', link: () => 'x', timer: () => 'x' };
    const { html, text } = fillProgram(
      program,
      valuesFor(program, { subscriber: {}, event: {}, sender: {} }),
      addresses,
    );
    expect(html).toMatch(/<p style="margin:0 0 1em">As the block/);
    expect(html).toContain(
      '<p style="margin:0 0 0;text-align:center"><span style="color:#0b6e4f;font-size:26px;line-height:1.3"><strong>Last copies</strong></span></p>',
    );
    expect(text).toContain('As the block\n\nLast copies');
  });

  // WCAG 2.2, 1.4.3 and "contrast ratio": #767676 on white is 4.54 to 1, on #efece4 3.8; large type needs 3.
  test.each([
    ['on white', {}, 'small', []],
    ['on a darker ground', { look: { background: 'page' } }, 'small', [/3\.8 to 1, and 4\.5 to 1 is needed/]],
    ['large, on the darker ground', { look: { background: 'page' } }, 'large', []],
  ])('a grey %s', (_where, own, size, messages) => {
    const house = { ...style, soft: '#767676', sheet: '#ffffff', page: '#efece4', text: '#1d2627' };
    const found = runChecks(
      sequence([step(worded(look('soft', size)), own)]),
      context({ style: { ...house, postalAddress: 'Rua das Gáveas 12, Lisboa' } }),
    ).filter((f) => f.check === 'poor-contrast' && f.place.block === 'words');
    expect(found.map((f) => f.message)).toEqual(messages.map((m) => expect.stringMatching(m) as string));
  });

  test.each([
    ['a colour that is no name of the house', { type: 'look', attrs: { color: '#ff0000', size: null } }],
    ['a size that is none', { type: 'look', attrs: { color: null, size: '40px' } }],
  ])('%s is refused', (_what, mark) => {
    expect(richTextSchema.safeParse(worded(mark)).success).toBe(false);
  });
});
