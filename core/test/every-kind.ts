import { blockKinds, paragraphs, type Block, type Email } from '../src/email/index.ts';

/** An email that holds every kind of block there is, inside and out, each with something in it. */
export function everyKind(): Email {
  let n = 0;
  const newId = () => `b${++n}`;
  const teacher = { kind: 'tag' as const, tag: 'teacher', has: true };
  const text = (words: string, more: object = {}): Block => ({
    kind: 'text',
    id: newId(),
    doc: paragraphs(words),
    ...more,
  });
  const image: Block = {
    kind: 'image',
    id: newId(),
    file: 'cover',
    alt: 'A folded sheet',
    link: 'https://foldwell.example/paper',
    width: 536,
  };
  const columns: Block = {
    ...blockKinds.columns.blank(newId),
    phone: 'last-first',
    columns: [
      {
        id: newId(),
        share: 1,
        blocks: [
          { ...image, id: newId(), width: 240 },
          { kind: 'heading', id: newId(), text: 'Pamphlet kit', level: 2 },
        ],
      },
      {
        id: newId(),
        share: 2,
        condition: teacher,
        blocks: [
          text('For teachers, by the dozen.') as never,
          { kind: 'button', id: newId(), label: 'Ask', address: 'mailto:ines@foldwell.example' },
        ],
      },
    ],
  };
  const word = (words: string) => text(words) as never;
  const plainColumns = (phone: 'last-first' | 'beside', left: string, right: string): Block => ({
    ...blockKinds.columns.blank(newId),
    phone,
    columns: [
      { id: newId(), share: 1, blocks: [word(left)] },
      { id: newId(), share: 1, blocks: [word(right)] },
    ],
  });
  return {
    sender: '',
    subject: 'Every kind of block',
    preview: 'One of each',
    blocks: [
      blockKinds.logo.blank(newId),
      { kind: 'heading', id: newId(), text: 'Foldwell Bindery', level: 1 },
      text('Hello, here is one of each.', { look: { size: 18, align: 'center', background: 'page' } }),
      image,
      {
        kind: 'button',
        id: newId(),
        label: 'See the kits',
        address: 'https://foldwell.example/kits',
        look: { wide: true },
      },
      { kind: 'list', id: newId(), marker: 'tick', items: ['Fold', 'Press', 'Sew'] },
      { kind: 'quote', id: newId(), doc: paragraphs('It lies flat at last.'), by: 'Tomasz' },
      {
        kind: 'article',
        id: newId(),
        file: 'cover',
        alt: 'Thread',
        title: 'Which thread?',
        summary: 'Linen, mostly.',
        address: 'https://foldwell.example/thread',
        label: 'Read on',
        side: 'right',
      },
      {
        kind: 'table',
        id: newId(),
        head: true,
        rows: [
          ['Paper', 'Weight'],
          ['Laid', '120 g'],
          ['Wove', '90 g'],
        ],
      },
      {
        kind: 'video',
        id: newId(),
        file: 'cover',
        alt: 'A film on folding',
        address: 'https://foldwell.example/film',
        label: 'Watch',
      },
      columns,
      plainColumns('last-first', 'Left column', 'Right column'),
      plainColumns('beside', 'Still left', 'Still right'),
      { kind: 'heading', id: newId(), text: 'Ask for everyone’s advice', level: 2 },
      {
        ...blockKinds.section.blank(newId),
        look: { background: '#e3eee9', above: 20, below: 20 },
        when: { chain: 'if', condition: teacher },
        blocks: [
          text('For teachers') as never,
          {
            ...columns,
            id: newId(),
            phone: 'beside',
            columns:
              columns.kind === 'columns'
                ? columns.columns.map((c) => ({
                    id: newId(),
                    share: c.share,
                    blocks: c.blocks.map((b) => ({ ...b, id: newId() })),
                  }))
                : [],
          } as never,
        ],
      },
      text('For everybody else', { when: { chain: 'else' } }),
      {
        ...blockKinds.repeat.blank(newId),
        list: 'event.lines',
        across: 2,
        link: 'url',
        picture: { on: true, field: 'image' },
        title: { on: true, field: 'title' },
        quantity: { on: true, field: 'quantity' },
        price: { on: true, field: 'price' },
        button: { on: true, label: 'Look' },
        none: 'Nothing in it.',
      },
      text('Seen on a phone', { only: 'phone' }),
      blockKinds.code.blank(newId),
      {
        ...blockKinds.timer.blank(newId),
        to: { kind: 'date', wall: '2031-03-31T18:00', zone: 'Europe/Lisbon' },
        says: 'It ends on',
      },
      { kind: 'divider', id: newId() },
      { kind: 'spacer', id: newId(), height: 24 },
      { kind: 'html', id: newId(), source: '<p>A <a href="https://foldwell.example/raw">piece of source</a>.</p>' },
      { kind: 'social', id: newId() },
      { ...blockKinds.signature.blank(newId), greeting: 'Until tomorrow,' },
      { kind: 'footer', id: newId(), reason: 'You asked for our letters.' },
    ],
  };
}
