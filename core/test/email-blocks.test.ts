import { HtmlValidate } from 'html-validate';
import { parse } from 'parse5';
import fc from 'fast-check';
import { Liquid } from 'liquidjs';
import { describe, expect, test } from 'vitest';
import type { Condition } from '../src/audience/index.ts';
import {
  automaticText,
  blockKinds,
  blockSchema,
  compileEmail,
  contentOf,
  encodeProgram,
  fillEncoded,
  fillProgram,
  linkTarget,
  paragraphs,
  plainStyle,
  readTemplate,
  readLinkRef,
  targetOfLink,
  type LinkRef,
  valuesFor,
  type Block,
  type Email,
  type HouseStyle,
  type MergeContext,
  type RichText,
  blockTitle,
} from '../src/email/index.ts';
import { everyKind } from './every-kind.ts';

const style: HouseStyle = {
  ...plainStyle,
  postalAddress: 'Rua das Gáveas 12, Lisboa',
  social: [{ network: 'mastodon', address: 'https://social.example/@foldwell' }],
};
const letter = (blocks: Block[], more: Partial<Email> = {}): Email => ({
  sender: '',
  subject: 'Hello',
  preview: 'A look inside',
  blocks,
  ...more,
});
const addresses = {
  base: 'https://a.example',
  unsubscribe: 'https://a.example/u/t',
  open: 'https://a.example/o/t.gif',
  link: (ref: string) => `https://a.example/c/t/${ref}`,
  timer: (n: number) => `https://a.example/t/t/${n}.gif`,
};
const teacher: Condition = { kind: 'tag', tag: 'teacher', has: true };
const club: Condition = { kind: 'tag', tag: 'club', has: true };
const reader = (tags: string[], more: Partial<MergeContext> = {}): MergeContext => ({
  subscriber: { first_name: 'Marta' },
  event: {},
  sender: { name: 'Inês' },
  holds: function holds(c): boolean {
    if (c.kind === 'tag') return tags.includes(c.tag) === c.has;
    if (c.kind === 'not') return !holds(c.of);
    return c.kind === 'all' && c.of.every(holds);
  },
  ...more,
});
const text = (id: string, words: string, more: Partial<Block> = {}): Block =>
  ({ kind: 'text', id, doc: paragraphs(words), ...more }) as Block;
const shown = async (email: Email, who: MergeContext) => {
  const program = await compileEmail(email, style);
  return fillProgram(program, valuesFor(program, who), addresses);
};

describe('who sees what', () => {
  const chain = letter([
    text('a', 'For teachers', { when: { chain: 'if', condition: teacher } }),
    text('b', 'For the club', { when: { chain: 'elseif', condition: club } }),
    text('c', 'For all others', { when: { chain: 'else' } }),
    { kind: 'footer', id: 'f', reason: '' },
  ]);

  test.each([
    [['teacher', 'club'], 'For teachers'],
    [['club'], 'For the club'],
    [[], 'For all others'],
  ])('a reader with the tags %j sees one version of a chain, in both parts', async (tags, expected) => {
    const { html, text: plain } = await shown(chain, reader(tags));
    for (const words of ['For teachers', 'For the club', 'For all others']) {
      expect(html.includes(words)).toBe(words === expected);
      expect(plain.includes(words)).toBe(words === expected);
    }
  });

  test('a version that is switched off keeps its place in the chain and says nothing', async () => {
    const off = letter(chain.blocks.map((b) => (b.id === 'a' ? { ...b, off: true as const } : b)));
    expect((await shown(off, reader(['teacher']))).text).not.toMatch(/For/);
    expect((await shown(off, reader([]))).text).toContain('For all others');
  });

  test('a stretch of a paragraph, with other words for the others', async () => {
    const doc: RichText = {
      type: 'doc',
      content: [
        {
          type: 'paragraph',
          content: [
            { type: 'text', text: 'Bring ' },
            {
              type: 'text',
              text: 'your pupils',
              marks: [
                { type: 'only', attrs: { condition: teacher, otherwise: 'a friend, {{ subscriber.first_name }}' } },
              ],
            },
            { type: 'text', text: '.' },
          ],
        },
      ],
    };
    const email = letter([{ kind: 'text', id: 't', doc }]);
    expect((await shown(email, reader(['teacher']))).html).toContain('Bring your pupils.');
    expect((await shown(email, reader([]))).html).toContain('Bring a friend, Marta.');
    expect((await shown(email, reader([]))).text).toContain('Bring a friend, Marta.');
  });

  test('columns that only some see give their width to the others: every set of them, for every reader', async () => {
    const column = (id: string, words: string, condition?: Condition) => ({
      id,
      share: 1,
      blocks: [text(`${id}t`, words) as never],
      ...(condition ? { condition } : {}),
    });
    const email = letter([
      {
        kind: 'columns',
        id: 'c',
        phone: 'in-order',
        columns: [column('x', 'Always'), column('y', 'Teachers', teacher), column('z', 'Club', club)],
      },
    ]);
    for (const [tags, widths] of [
      [['teacher', 'club'], 33],
      [['teacher'], 50],
      [['club'], 50],
      [[], 100],
    ] as const) {
      const { html } = await shown(email, reader([...tags]));
      expect(html.match(/Always/g)).toHaveLength(1);
      expect([html.includes('Teachers'), html.includes('Club')]).toEqual([
        tags.includes('teacher' as never),
        tags.includes('club' as never),
      ]);
      expect(html).toContain(`mj-column-per-${widths}`);
    }
  });
});

describe('a repeat', () => {
  const block: Block = {
    ...blockKinds.repeat.blank(() => 'r'),
    list: 'event.lines',
    limit: 3,
    across: 2,
    sort: { field: 'price', down: true },
    link: 'url',
    none: 'Nothing in it, {{ subscriber.first_name }}.',
    picture: { on: true, field: 'image' },
    title: { on: true, field: 'title' },
    quantity: { on: true, field: 'qty' },
    price: { on: true, field: 'price' },
  };
  const line = (title: string, price: number, more: object = {}) => ({
    title,
    price,
    qty: 2,
    url: `https://foldwell.example/${price}`,
    image: 'https://foldwell.example/a.png',
    ...more,
  });
  const lines = [line('Thread', 4), line('<Kit>', 32), line('Knife', 9), line('Awl', 1)];
  const email = letter([block, { kind: 'footer', id: 'f', reason: '' }]);

  test('the dearest three, two in a row, each with its own address, price and picture', async () => {
    const { html, text: plain } = await shown(email, reader([], { event: { lines } }));
    expect([...html.matchAll(/font-weight:600"><a[^>]*>([^<]*)</g)].map((m) => m[1])).toEqual([
      '&lt;Kit&gt;',
      'Knife',
      'Thread',
    ]);
    expect(plain).toMatch(/- 2 × <Kit>, €32\.00\n {2}https:\/\/a\.example\/c\/t\/0\.0\.0\n- 2 × Knife, €9\.00\n/);
    expect(html).toContain('src="https://foldwell.example/a.png"');
    expect(html).toContain('href="https://a.example/c/t/0.2.0"');
    const { document } = { document: parse(html) };
    expect(document.childNodes.length).toBeGreaterThan(1);
  });

  test('a link of an item leads to that item’s own address', async () => {
    const program = await compileEmail(email, style);
    const values = valuesFor(program, reader([], { event: { lines } }));
    expect(targetOfLink(program, values, { repeat: 0, item: 1, number: 0 })).toMatchObject({
      target: 'https://foldwell.example/9',
    });
    expect(targetOfLink(program, values, { repeat: 0, item: 3, number: 0 })).toBeUndefined();
    expect(targetOfLink(program, values, readLinkRef('7') as LinkRef)).toBeUndefined();
  });

  test.each([[undefined], [[]], ['three'], [[null, [1]]]])('%j is an empty list', async (what) => {
    const { text: plain } = await shown(email, reader([], { event: { lines: what } }));
    expect(plain).toContain('Nothing in it, Marta.');
    expect(plain).not.toContain('×');
  });

  test('a list of the person, of plain words', async () => {
    const papers: Block = {
      ...blockKinds.repeat.blank(() => 'p'),
      list: 'subscriber.papers',
      title: { on: true, field: 'value' },
    };
    const { text: plain } = await shown(letter([papers]), reader([], { subscriber: { papers: ['Laid', 'Wove'] } }));
    expect(plain.trim()).toBe('- Laid\n- Wove');
  });

  test('an item without a picture has no broken one, and a hostile address is no address', async () => {
    const odd = [
      line('A', 3, { image: '', qty: undefined }),
      line('B', 2, { image: 'javascript:alert(1)', url: 'javascript:alert(2)' }),
    ];
    const { html, text: plain } = await shown(email, reader([], { event: { lines: odd } }));
    expect(html).not.toContain('javascript');
    expect(html.match(/<img src=""/g)).toHaveLength(1);
    expect(plain).toContain('- A, €3.00');
  });

  test('encoded, it says the same to the letter', async () => {
    const program = await compileEmail(email, style);
    const encoded = encodeProgram(program);
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            title: fc.string({ maxLength: 90, unit: 'grapheme' }),
            price: fc.integer({ min: 0, max: 9999 }),
          }),
          { maxLength: 5 },
        ),
        (items) => {
          const values = valuesFor(program, reader([], { event: { lines: items } }));
          for (const part of ['html', 'text'] as const) {
            const bytes = fillEncoded(encoded[part], program, values, addresses)
              .replace(/=\r\n/g, '')
              .replace(/=([0-9A-F]{2})/g, (_, h: string) => String.fromCharCode(parseInt(h, 16)));
            const decoded = Buffer.from(bytes, 'latin1').toString('utf8').replaceAll('\r\n', '\n');
            expect(decoded).toBe(
              fillProgram(program, values, addresses)
                [part].replace(/\r\n?/g, '\n')
                .replace(/\p{Surrogate}/gu, '\uFFFD'),
            );
          }
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('every kind of block at once', () => {
  const rules = new HtmlValidate({
    extends: ['html-validate:recommended'],
    rules: {
      // What mail programs need, and a browser’s style guide would not have.
      'no-inline-style': 'off',
      'void-style': 'off',
      'attr-quotes': 'off',
      'no-trailing-whitespace': 'off',
      'element-required-attributes': 'off',
      'no-conditional-comment': 'off',
      'attribute-boolean-style': 'off',
      'no-deprecated-attr': 'off',
      'prefer-native-element': 'off',
      'no-implicit-input-type': 'off',
      'no-redundant-role': 'off',
      'long-title': 'off',
      'tel-non-breaking': 'off',
      'attribute-empty-style': 'off',
      'no-raw-characters': 'off',
      'aria-label-misuse': 'off',
      'require-sri': 'off',
      'script-type': 'off',
      'empty-title': 'off',
      'no-unused-disable': 'off',
      'meta-refresh': 'off',
      'wcag/h63': 'off',
      'prefer-tbody': 'off',
      'doctype-style': 'off',
      'attribute-allowed-values': 'off',
      'attribute-misuse': 'off',
      'no-dup-class': 'off',
      'unique-landmark': 'off',
    },
  });

  test('is valid HTML: nesting, unique ids, known elements (html-validate)', async () => {
    const { html } = await shown(everyKind(), reader(['teacher'], { event: { lines: [{ title: 'Kit', price: 32 }] } }));
    const report = await rules.validateString(html);
    expect(report.results.flatMap((r) => r.messages.map((m) => `${m.ruleId}: ${m.message}`))).toEqual([]);
  });

  test('keeps Outlook’s conditional comments whole, in pairs', async () => {
    const { html } = await shown(everyKind(), reader([]));
    const opened = html.match(/<!--\[if [^\]]*\]>/g)?.length ?? 0;
    const closed = html.match(/<!\[endif\]-->/g)?.length ?? 0;
    expect(opened).toBeGreaterThan(10);
    expect(closed).toBe(opened);
    // As Outlook reads it, tables open and close in pairs too.
    const outlook = html
      .replace(/<!--\[if !mso[^\]]*\]><!-->[\s\S]*?<!--<!\[endif\]-->/g, '')
      .replace(/<!--\[if[^\]]*\]>|<!\[endif\]-->/g, '');
    for (const tag of ['table', 'tr', 'td'])
      expect(outlook.match(new RegExp(`</${tag}>`, 'g'))?.length).toBe(
        outlook.match(new RegExp(`<${tag}[\\s>]`, 'g'))?.length,
      );
  });

  test('loads nothing from anywhere but us, and says its language and title', async () => {
    const { html } = await shown(everyKind(), reader(['teacher']));
    const hosts = [...html.matchAll(/(?:src|background)="https?:\/\/([^/"]+)/g)].map((m) => m[1]);
    expect(new Set(hosts)).toEqual(new Set(['a.example']));
    expect(html).toMatch(/<html[^>]* lang="en"/);
    expect(html).toContain('<title>Every kind of block</title>');
    expect(html.match(/<table(?![^>]*role="presentation")[^>]*>/g)).toHaveLength(1);
  });

  test('an email in another language says so, and its way out is in that language too', async () => {
    const { html, text } = await shown({ ...everyKind(), language: 'pt-PT' }, reader(['teacher']));
    expect(html).toMatch(/<html[^>]* lang="pt-PT"/);
    expect(html).toContain('>Cancelar subscrição</a>');
    expect(text).toContain('Cancelar subscrição: ');
    expect(html + text).not.toContain('Unsubscribe');
  });
});

test('a picture can be the photo of whoever the email is from, with their name; it is left out where they have none', async () => {
  const photo: Block = { kind: 'image', id: 'i', file: '', alt: '', link: '', width: 120, sender: true };
  const email = { ...everyKind(), blocks: [photo] };
  const from = (sender: object) => ({
    ...reader([]),
    sender: { name: 'Inês', email: 'i@foldwell.example', ...sender },
  });
  const { html } = await shown(email, from({ photo: 'face' }));
  expect(html).toMatch(/<img[^>]*src="https?:\/\/a\.example\/f\/face"/);
  expect(html).toMatch(/<img[^>]*alt="Inês"/);
  expect((await shown(email, from({}) as never)).html).not.toContain('/f/');
});

test('nothing can be smuggled into an attribute: the id of a file is an id, a colour a colour', () => {
  const image = { kind: 'image', id: 'i', file: 'x" onerror="alert(1)', alt: '', link: '', width: 300 };
  expect(blockSchema.safeParse(image).success).toBe(false);
  expect(blockSchema.safeParse({ ...image, file: 'cover', look: { background: 'red;x:url(y)' } }).success).toBe(false);
  expect(blockSchema.safeParse({ ...image, file: 'cover', look: { background: 'page' } }).success).toBe(true);
});

describe('ways to make an email', () => {
  const source =
    '<!doctype html><html lang="en"><head><title>x</title><style>a{color:red}</style></head><body><p>Hi {{ subscriber.first_name }}, <a class="k" href="https://foldwell.example/kits?x=1&amp;y=2">the <b>kits</b></a>.</p><ul><li>One</li><li>Two</li></ul><a href="{{ links.unsubscribe }}">Stop</a></body></html>';

  test('a source of one’s own stays as it was written, but for links, fields and what we count by', async () => {
    const email = letter([], { mode: 'html', html: source });
    const { html, text: plain } = await shown(email, reader([]));
    const mine = html
      .replace(/<div style="display:none[\s\S]*?<\/div>/, '')
      .replace(/<img src="https:\/\/a\.example\/o[^>]*>/, '');
    expect(mine).toBe(
      source
        .replace('{{ subscriber.first_name }}', 'Marta')
        .replace('https://foldwell.example/kits?x=1&amp;y=2', 'https://a.example/c/t/0')
        .replace('{{ links.unsubscribe }}', 'https://a.example/u/t'),
    );
    expect(html).toContain('A look inside');
    expect(plain).toBe(
      'Hi Marta, the kits ( https://a.example/c/t/0 ).\n\nOne\n\nTwo\n\nStop ( https://a.example/u/t )',
    );
    const program = await compileEmail(email, style);
    expect(program.links).toEqual([{ address: 'https://foldwell.example/kits?x=1&y=2', label: 'the kits' }]);
  });

  test('a merge field in a style is refused', async () => {
    const bad = letter([], { mode: 'html', html: '<style>a{color:{{ subscriber.first_name }}}</style>' });
    await expect(compileEmail(bad, style)).rejects.toThrow(/style/);
  });

  test('text only has no HTML part, and a letter has no button', async () => {
    const blocks: Block[] = [
      text('a', 'Hello'),
      { kind: 'button', id: 'b', label: 'See the kits', address: 'https://foldwell.example' },
    ];
    expect((await shown(letter(blocks, { mode: 'text' }), reader([]))).html).toBe('');
    const designed = (await shown(letter(blocks), reader([]))).html;
    const plain = (await shown(letter(blocks, { mode: 'letter' }), reader([]))).html;
    expect(designed).toContain(`bgcolor="${style.accent}"`);
    expect(plain).not.toContain(style.accent === style.link ? 'bgcolor="#6b3a22"' : style.accent);
    expect(plain).toContain('See the kits');
  });

  test('a plain text written by hand is filled and led through us like the other part', async () => {
    const words = 'Hello {{ subscriber.first_name }}: https://foldwell.example/kits. Stop: {{ links.unsubscribe }}';
    const { text: plain } = await shown(letter([text('a', 'x')], { text: { words, over: '' } }), reader([]));
    expect(plain).toBe('Hello Marta: https://a.example/c/t/0. Stop: https://a.example/u/t');
  });

  test('the automatic text is handed over as a template that gives the same text again', async () => {
    const email = everyKind();
    const who = reader([], { sender: { name: 'Inês' } });
    const simple = letter(
      email.blocks.filter((b) => ['text', 'heading', 'button', 'quote', 'list', 'table', 'footer'].includes(b.kind)),
    );
    const made = await shown(simple, who);
    const again = await shown({ ...simple, text: { words: automaticText(simple, style), over: '' } }, who);
    // Link numbers move, since in a text of one’s own every address counts by itself.
    const bare = (s: string) => s.replace(/c\/t\/[\d.]+/g, 'c/t/n').trim();
    expect(bare(again.text)).toBe(bare(made.text));
  });
});

describe('campaign parameters', () => {
  const campaign = { source: 'ascenso', medium: 'email', campaign: '{{ sequence.name }}', content: '' };
  const who = reader([], { sequence: { name: 'First welcome' }, event: { back: 'https://foldwell.example/cart/1' } });
  test.each([
    [
      'https://foldwell.example/kits',
      'https://foldwell.example/kits?utm_source=ascenso&utm_medium=email&utm_campaign=First%20welcome',
    ],
    [
      'https://foldwell.example/kits?x=1#new',
      'https://foldwell.example/kits?x=1&utm_source=ascenso&utm_medium=email&utm_campaign=First%20welcome#new',
    ],
    [
      'https://foldwell.example/?utm_source=own&UTM_Medium=own',
      'https://foldwell.example/?utm_source=own&UTM_Medium=own&utm_campaign=First%20welcome',
    ],
    [
      '{{ event.back }}',
      'https://foldwell.example/cart/1?utm_source=ascenso&utm_medium=email&utm_campaign=First%20welcome',
    ],
    ['mailto:ines@foldwell.example', 'mailto:ines@foldwell.example'],
    ['file:guide', 'file:guide'],
    // What a shop may send: nothing but an id stands behind our own scheme, and no address is longer than 2,000.
    ['file:../c/x', ''],
    ['file:..%2f..%2fapi', ''],
    ['FILE:guide', ''],
    ['javascript:alert(1)', ''],
    [`https://foldwell.example/${'x'.repeat(2_000)}`, ''],
  ])('%s', (address, expected) => {
    expect(linkTarget(address, who, campaign)).toBe(expected);
  });
});

test('dates, money and numbers are written for the reader; Liquid reads the same fields', async () => {
  const who: MergeContext = {
    ...reader([]),
    event: { starts: '2026-03-09T19:00:00Z', total: 1234.5, lines: [] },
    locale: { language: 'pt', zone: 'Europe/Lisbon', currency: 'EUR' },
  };
  const email = letter([], {
    subject:
      '{{ event.starts | date: "moment" }}, {{ event.total | money }}, {{ event.total | number }}, {{ event.gone | date: "day" | default: "soon" }}',
  });
  expect((await shown(email, who)).subject.replace(/\u00a0/g, ' ')).toBe(
    'segunda-feira, 9 de março, 19:00, € 1.234,50, 1.234,5, soon',
  );
  const { faults } = readTemplate('{{ event.starts | date: "someday" }}');
  expect(faults[0]?.message).toContain('no way to write a date');
  const liquid = new Liquid();
  expect(() => liquid.parse(email.subject)).not.toThrow();
});

test.each([
  ['short words stay whole', 'Fold it twice.', 'Fold it twice.'],
  [
    'long ones are cut between two words',
    'Club members: your paper of the month ships with it, so there is one parcel.',
    'Club members: your paper of the month …',
  ],
  [
    'a comma before the cut goes with it',
    'One two three four five six seven eight, nine',
    'One two three four five six seven eight …',
  ],
  ['one endless word is cut where it must be', 'x'.repeat(60), `${'x'.repeat(40)} …`],
])('the title of a text: %s', (_rule, words, title) => {
  expect(blockTitle({ kind: 'text', id: 't', doc: paragraphs(words) })).toBe(title);
});

test('plain text has one empty line between paragraphs, however many stand there', async () => {
  const blocks: Block[] = [
    { kind: 'text', id: 'a', doc: paragraphs('First.', '', '', '', 'Second.') },
    { kind: 'text', id: 'b', doc: paragraphs('', '', 'Third.') },
  ];
  const { text } = await shown({ ...everyKind(), blocks }, reader([]));
  expect(text).not.toMatch(/\n\s*\n\s*\n/);
  for (const words of ['First.', 'Second.', 'Third.']) expect(text).toContain(words);
});

test('strict programs are asked to leave it as it is, and no height is anything but a number (HTML, 4.8.17)', async () => {
  const { html } = await shown(everyKind(), reader(['teacher'], { event: { lines: [{ title: 'Kit', price: 32 }] } }));
  expect(html).toContain('<meta name="x-apple-disable-message-reformatting">');
  expect(html).toMatch(/<meta name="format-detection" content="telephone=no,/);
  expect(
    [...html.matchAll(/<img[^>]*?\sheight="([^"]*)"/g)].map((m) => m[1]).filter((h) => !/^\d+$/.test(h ?? '')),
  ).toEqual([]);
});

describe('parts of a block that are switched off', () => {
  test.each(Object.values(blockKinds).flatMap((k) => Object.keys(k.mayHide).map((f) => [k.kind, f] as const)))(
    '%s without its %s: not in HTML, not in text, not looked at; kept, and back as it was',
    async (kind, field) => {
      const WORD = 'zebrawood';
      let n = 0;
      const sample: Block = blockKinds[kind].sample(() => `h${++n}`);
      const marked = {
        ...sample,
        [field]: field === 'link' ? `https://foldwell.example/${WORD}` : field === 'file' ? WORD : `Of ${WORD}`,
      };
      const off: Block = { ...marked, hidden: [field] };
      const said = async (block: Block) => {
        const email: Email = { sender: '', subject: 's', preview: 'p', blocks: [block], offer: 'kit' };
        const program = await compileEmail(email, plainStyle);
        return JSON.stringify({ ...program, content: contentOf(email) });
      };
      expect(await said(marked)).toContain(WORD);
      expect(await said(off)).not.toContain(WORD);
      const { hidden: _, ...back } = off;
      expect(back).toEqual(marked);
    },
  );
});
