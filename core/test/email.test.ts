import { Liquid } from 'liquidjs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  compileEmail,
  encodeProgram,
  fillEncoded,
  fillProgram,
  linksToNowhere,
  linkTarget,
  paragraphs,
  plainStyle,
  quotedPrintable,
  readTemplate,
  valuesFor,
  writeField,
  fieldText,
  type Email,
  type Field,
  type RichText,
} from '../src/email/index.ts';

const email: Email = {
  sender: '',
  subject: 'Your guide, {{ subscriber.first_name | default: "reader" }}',
  preview: '',
  blocks: [
    {
      id: 'a',
      kind: 'text',
      doc: paragraphs(['Hello ', { path: 'subscriber.first_name', fallback: 'reader', filters: [] }, '.']),
    },
    { id: 'b', kind: 'button', label: 'Back to my cart', address: '{{ event.return_to }}' },
    { id: 'f', kind: 'footer', reason: '' },
  ],
};
const addresses = {
  base: 'http://a.example',
  unsubscribe: 'http://a.example/u/t',
  open: 'http://a.example/o/t.gif',
  link: (ref: string) => `http://a.example/c/t/${ref}`,
  timer: (n: number) => `https://a.example/t/t/${n}.gif`,
};
const context = (first_name: unknown, return_to: unknown = 'https://foldwell.example/cart/1') => ({
  subscriber: { first_name },
  event: { return_to },
  sender: {},
});

describe('a compiled email', () => {
  test('a first name of markup or braces does no harm anywhere', async () => {
    const program = await compileEmail(email, { ...plainStyle, postalAddress: 'Lisbon' });
    for (const bad of ['<img src=x onerror=alert(1)>', '{{ x }}', '"><script>', 'mzq0qzm']) {
      const filled = fillProgram(program, valuesFor(program, context(bad)), addresses);
      expect(filled.html).not.toContain('<img src=x');
      expect(filled.html).not.toContain('<script>');
      expect(filled.subject).toBe(`Your guide, ${bad}`);
      expect(filled.text).toContain(`Hello ${bad}.`);
    }
  });

  test('a preview text that nobody typed greets by name as the first text does, and is not cut within a field', async () => {
    const first = (doc: RichText): Email => ({ ...email, blocks: [{ id: 'a', kind: 'text', doc }] });
    const name: Field = { path: 'subscriber.first_name', fallback: 'reader', filters: [] };
    const landed = async (e: Email, who: unknown) => {
      const program = await compileEmail(e, plainStyle);
      const { preview, html } = fillProgram(program, valuesFor(program, context(who)), addresses);
      expect(html).toContain(preview);
      return preview;
    };
    const hello = first(paragraphs(['Hello ', name, ', sit down.'], 'Here it is.'));
    expect(await landed(hello, 'Marta')).toBe('Hello Marta, sit down. Here it is.');
    expect(await landed(hello, null)).toBe('Hello reader, sit down. Here it is.');
    // Wherever the field stands, of a source of one's own too, nothing of its braces is ever read.
    const own = (source: string): Email => ({ ...email, mode: 'html', html: source });
    for (let before = 100; before <= 180; before++) {
      const words = 'x'.repeat(before);
      const whole = before < 140 ? `${words}Marta` : 'x'.repeat(140);
      expect((await landed(first(paragraphs([words, name, 'y'])), 'Marta')).slice(0, before + 5)).toBe(whole);
      expect(await landed(own(`<p>${words}{{ subscriber.first_name }}</p>`), 'Marta')).toBe(whole);
    }
  });

  test('an address from data is taken only with a known scheme', async () => {
    const program = await compileEmail(email, plainStyle);
    expect(valuesFor(program, context('M', 'javascript:alert(1)')).targets).toEqual(['']);
    expect(valuesFor(program, context('M')).targets).toEqual(['https://foldwell.example/cart/1']);
  });

  test('what is not counted has no picture for openings and leads straight on; a file and leaving stay ours', async () => {
    const file: Email['blocks'][number] = { id: 'c', kind: 'button', label: 'The guide', address: 'file:guide' };
    const uncounted: Email = { ...email, blocks: [...email.blocks, file], uncounted: ['openings', 'clicks'] };
    const style = { ...plainStyle, campaign: { source: 'house', medium: 'email', campaign: '', content: '' } };
    const filled = async (e: Email) => {
      const program = await compileEmail(e, style);
      return fillProgram(program, valuesFor(program, context('M')), addresses);
    };
    const counted = await filled({ ...email, blocks: [...email.blocks, file] });
    expect(counted.html).toContain('/o/t.gif');
    expect(counted.html).toContain('href="http://a.example/c/t/0"');
    const { html, text } = await filled({ ...uncounted, campaign: { source: 'lesson' } });
    expect(html).not.toContain('/o/t.gif');
    const target = 'https://foldwell.example/cart/1?utm_source=lesson&utm_medium=email';
    expect(html).toContain(`href="${target.replace('&', '&amp;')}"`);
    expect(text).toContain(target);
    expect(html).toContain('href="http://a.example/c/t/1"');
    expect(html).toContain('href="http://a.example/u/t"');
  });

  test('encoded pieces say the same as the text, in lines of RFC 2045', async () => {
    const program = await compileEmail(email, plainStyle);
    const values = valuesFor(program, context('Inês 📖 = x'));
    const encoded = fillEncoded(encodeProgram(program).html, program, values, addresses);
    const bytes = encoded
      .replace(/=\r\n/g, '')
      .replace(/=([0-9A-F]{2})/g, (_, h: string) => String.fromCharCode(parseInt(h, 16)));
    const decoded = Buffer.from(bytes, 'latin1').toString('utf8').replaceAll('\r\n', '\n');
    expect(decoded).toBe(fillProgram(program, values, addresses).html);
    expect(Math.max(...encoded.split('\r\n').map((l) => l.length))).toBeLessThanOrEqual(76);
  });
});

test('quoted-printable of any text has lines of at most 76 ASCII characters and reads back', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 300 }), (text) => {
      const encoded = quotedPrintable(text);
      for (const line of encoded.split('\r\n')) expect(line).toMatch(/^[\x20-\x7e\t]{0,76}$/);
      const bytes = encoded
        .replace(/=\r\n/g, '')
        .replace(/=([0-9A-F]{2})/g, (_, h: string) => String.fromCharCode(parseInt(h, 16)));
      expect(Buffer.from(bytes, 'latin1').toString('utf8')).toBe(
        text.replace(/\r\n|\r|\n/g, '\r\n').replace(/\p{Surrogate}/gu, '\uFFFD'),
      );
    }),
  );
});

test('a written field means the same to liquidjs', async () => {
  const liquid = new Liquid();
  for (const source of [
    '{{ subscriber.first_name | default: "reader" }}',
    '{{ subscriber.first_name | upcase }}',
    '{{ subscriber.missing | default: "x" }}',
  ]) {
    const field = readTemplate(source).pieces[0];
    if (!field || typeof field === 'string') throw new Error('no field');
    expect(writeField(field)).toBe(source);
    expect(fieldText(field, context('Marta'))).toBe(await liquid.parseAndRender(source, context('Marta')));
  }
});

test('a date, a moment and a decimal are written in the reader’s way wherever they stand; whole numbers and addresses as they are', async () => {
  const field = (path: string, more = {}) => ({ path, fallback: null, filters: [], ...more });
  const told: Email = {
    sender: '',
    subject: 'Until {{ event.ends }}',
    preview: 'On {{ subscriber.born }}',
    blocks: [
      {
        id: 'a',
        kind: 'text',
        doc: paragraphs([
          'At ',
          field('event.at'),
          ', number ',
          field('event.number'),
          ', weight ',
          field('event.weight'),
          '.',
        ]),
      },
      {
        id: 'b',
        kind: 'button',
        label: 'Until {{ event.ends }}',
        address: 'https://foldwell.example/?on={{ event.ends }}',
      },
      { id: 'f', kind: 'footer', reason: '' },
    ],
  };
  const program = await compileEmail(told, { ...plainStyle, postalAddress: 'Lisbon' });
  const values = { ends: '2026-03-08', at: '2026-03-08T09:12:00.000Z', number: 10492, weight: 1234.5 };
  const filled = (language: string, zone: string) =>
    fillProgram(
      program,
      valuesFor(program, {
        subscriber: { born: '1990-12-24' },
        event: values,
        sender: {},
        locale: { language, zone, currency: 'EUR' },
      }),
      addresses,
    );
  // By hand, as a reader of each language writes them (CLDR 47, long dates).
  const lisbon = filled('en', 'Europe/Lisbon');
  expect(lisbon.subject).toBe('Until 8 March 2026');
  expect(lisbon.html).toContain('On 24 December 1990');
  expect(lisbon.text).toContain('At Sunday 8 March, 09:12, number 10492, weight 1,234.5.');
  expect(lisbon.text).toContain('Until 8 March 2026');
  const berlin = filled('de', 'Europe/Berlin');
  expect(berlin.subject).toBe('Until 8. März 2026');
  expect(berlin.text).toContain('number 10492, weight 1.234,5.');
  for (const { html, text, subject } of [lisbon, berlin])
    for (const part of [html, text, subject]) expect(part).not.toMatch(/\d{4}-\d{2}-\d{2}T|1990-12-24/);
  expect(
    linkTarget('https://foldwell.example/?on={{ event.ends }}&at={{ event.at }}', {
      subscriber: {},
      event: values,
      sender: {},
    }),
  ).toBe('https://foldwell.example/?on=2026-03-08&at=2026-03-08T09%3A12%3A00.000Z');
});

test('a link whose address is empty for a reader is not there: a button goes, words stay words; a picture’s holds the email', async () => {
  const at = (address: string): Email => ({
    sender: '',
    subject: 'Your cart',
    preview: '',
    blocks: [
      {
        id: 'a',
        kind: 'text',
        doc: {
          type: 'doc',
          content: [
            {
              type: 'paragraph',
              content: [
                { type: 'text', text: 'Go on ' },
                { type: 'text', text: 'where you were', marks: [{ type: 'link', attrs: { href: address } }] },
                { type: 'text', text: '.' },
              ],
            },
          ],
        },
      },
      { id: 'b', kind: 'button', label: 'Back to my cart', address },
      { id: 'f', kind: 'footer', reason: '' },
    ],
  });
  for (const letter of [undefined, 'letter'] as const) {
    const email = { ...at('{{ event.return_to }}'), ...(letter ? { form: letter } : {}) } as Email;
    const program = await compileEmail(email, { ...plainStyle, postalAddress: 'Lisbon' });
    const filled = (to: unknown) => fillProgram(program, valuesFor(program, context('Ana', to)), addresses);
    const there = filled('https://foldwell.example/cart/1');
    expect(there.html.match(/http:\/\/a\.example\/c\/t/g)?.length).toBeGreaterThanOrEqual(2);
    expect(there.html).toContain('Back to my cart');
    for (const nothing of ['', null, 'javascript:alert(1)', '/cart']) {
      const without = filled(nothing);
      for (const part of [without.html, without.text]) {
        expect([letter, nothing, part.match(/.{120}a\.example\/c\/t.{40}/)?.[0]]).toEqual([letter, nothing, undefined]);
        expect(part).not.toContain('Back to my cart');
        expect(part).toMatch(/Go on\s+where you were\./);
      }
      expect(linksToNowhere(program, valuesFor(program, context('Ana', nothing)))).toEqual([]);
    }
  }
  const picture: Email = {
    ...at('https://foldwell.example'),
    blocks: [
      {
        id: 'p',
        kind: 'image',
        file: 'abc',
        alt: 'The cart',
        address: '',
        link: '{{ event.return_to }}',
        width: 300,
      } as never,
      { id: 'f', kind: 'footer', reason: '' },
    ],
  };
  const program = await compileEmail(picture, { ...plainStyle, postalAddress: 'Lisbon' });
  expect(linksToNowhere(program, valuesFor(program, context('Ana')))).toEqual([]);
  expect(linksToNowhere(program, valuesFor(program, context('Ana', '')))).toHaveLength(1);
});

test('an unclosed brace and an unknown filter are told', () => {
  expect(readTemplate('Hello {{ subscriber.first_name').faults).toHaveLength(1);
  expect(readTemplate('{{ subscriber.first_name | shout }}').faults[0]?.message).toContain('shout');
});
