import { blockKinds, type Block } from './blocks/index.ts';
import type { Field } from './fields.ts';
import { paragraphs } from './rich.ts';
import type { Email } from './schema.ts';

/** A layout that ships: blocks with words to be filled in, which the checks ask for until they are one's own. */
export interface Layout {
  id: string;
  name: string;
  /** What it is good for, in a few words. */
  what: string;
  mode?: Email['mode'];
  build: (newId: () => string) => Block[];
}

const name: Field = { path: 'subscriber.first_name', fallback: 'there', filters: [] };

/** The blocks that layouts are put together of, with words in brackets to be filled in. */
const parts = (newId: () => string) => ({
  heading: (text: string, level: 1 | 2 = 1): Block => ({ ...blockKinds.heading.blank(newId), text, level }),
  hello: (...lines: string[]): Block => ({
    ...blockKinds.text.blank(newId),
    doc: paragraphs(['Hello ', name, ','], ...lines),
  }),
  text: (...lines: string[]): Block => ({ ...blockKinds.text.blank(newId), doc: paragraphs(...lines) }),
  button: (label: string): Block => ({ ...blockKinds.button.blank(newId), label }),
  quote: (words: string, by: string): Block => ({ ...blockKinds.quote.blank(newId), doc: paragraphs(words), by }),
  list: (...items: string[]): Block => ({ ...blockKinds.list.blank(newId), items }),
  article: (title: string): Block => ({
    ...blockKinds.article.blank(newId),
    title,
    summary: '[Your summary, in two lines]',
  }),
  columns: (left: Block[], right: Block[]): Block => {
    const blank = blockKinds.columns.blank(newId);
    return {
      ...blank,
      columns: blank.columns.map((c, i) => ({ ...c, blocks: (i === 0 ? left : right) as typeof c.blocks })),
    };
  },
  table: (...rows: string[][]): Block => ({ ...blockKinds.table.blank(newId), head: false, rows }),
  of: (kind: 'image' | 'divider' | 'signature' | 'footer' | 'logo' | 'code' | 'timer' | 'video'): Block =>
    blockKinds[kind].blank(newId),
});

const layout = (
  id: string,
  title: string,
  what: string,
  build: (p: ReturnType<typeof parts>) => Block[],
  mode?: Email['mode'],
): Layout => ({
  id,
  name: title,
  what,
  ...(mode ? { mode } : {}),
  build: (newId) => build(parts(newId)),
});

/** The layouts that ship, the plainest first. */
export const layouts: readonly Layout[] = [
  layout('one-thing', 'One thing, one button', 'Says one thing and asks for one click.', (p) => [
    p.of('logo'),
    p.heading('[Your headline]'),
    p.hello('[Your one thing, in two or three sentences]'),
    p.button('[Your button]'),
    p.of('footer'),
  ]),
  layout(
    'letter',
    'A letter',
    'From one person to another, with nothing around it.',
    (p) => [p.hello('[Your first paragraph]', '[Your second paragraph]'), p.of('signature'), p.of('footer')],
    'letter',
  ),
  layout('picture-first', 'A picture first', 'Shows something before it says something.', (p) => [
    p.of('logo'),
    p.of('image'),
    p.heading('[Your headline]'),
    p.text('[Your words about what is shown]'),
    p.button('[Your button]'),
    p.of('footer'),
  ]),
  layout('three-stories', 'Three stories', 'News with a picture and a link each.', (p) => [
    p.of('logo'),
    p.heading('[Your month or season]'),
    p.hello('[Your greeting, in a sentence or two]'),
    p.article('[Your first story]'),
    p.article('[Your second story]'),
    p.article('[Your third story]'),
    p.of('footer'),
  ]),
  layout('file', 'A file to take away', 'Delivers a guide, and says what to do with it.', (p) => [
    p.of('logo'),
    p.hello('Here it is, as promised: [your guide, and what is in it]'),
    p.of('image'),
    p.button('[Your button to the file]'),
    p.text('[Your tip for where to begin]'),
    p.of('signature'),
    p.of('footer'),
  ]),
  layout('lesson', 'A lesson', 'What is done today, what is needed, and what comes next.', (p) => [
    p.of('logo'),
    p.heading('[Your lesson’s title]'),
    p.hello('[Your reason to do it today]'),
    p.heading('What you need', 2),
    p.list('[Your first thing]', '[Your second thing]'),
    p.heading('How it goes', 2),
    p.text('[Your steps, one paragraph each]'),
    p.button('[Your button to the lesson]'),
    p.text('[Your sentence about the next lesson]'),
    p.of('signature'),
    p.of('footer'),
  ]),
  layout('offer', 'An offer with a deadline', 'A code of their own and the time that is left.', (p) => [
    p.of('logo'),
    p.heading('[Your offer in five words]'),
    p.hello('[Your reason for it, and what it is good for]'),
    p.of('code'),
    p.of('timer'),
    p.button('[Your button to the shop]'),
    p.of('footer'),
  ]),
  layout('date', 'A date and a place', 'When, where and what to bring.', (p) => [
    p.of('logo'),
    p.heading('[Your event]'),
    p.hello('[Your sentence about what happens there]'),
    p.table(['When', '[Your day and hour]'], ['Where', '[Your place]'], ['Bring', '[Your list]']),
    p.button('[Your button to book]'),
    p.of('signature'),
    p.of('footer'),
  ]),
  layout('voices', 'What others say', 'Two voices, and one thing to do.', (p) => [
    p.of('logo'),
    p.heading('[Your headline]'),
    p.quote('[Your first reader’s words]', '[Your reader’s name]'),
    p.quote('[Your second reader’s words]', '[Your reader’s name]'),
    p.button('[Your button]'),
    p.of('footer'),
  ]),
  layout('two-sides', 'Two side by side', 'Two things to choose between.', (p) => [
    p.of('logo'),
    p.heading('[Your question]'),
    p.columns(
      [p.heading('[Your first]', 2), p.text('[Your words for whom it is]'), p.button('[Your first button]')],
      [p.heading('[Your second]', 2), p.text('[Your words for whom it is]'), p.button('[Your second button]')],
    ),
    p.of('footer'),
  ]),
];
