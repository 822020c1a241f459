import { compileTree } from '@ascenso/mjml-slim';
import { Liquid } from 'liquidjs';
import {
  blockKinds,
  compileEmail,
  encodeProgram,
  fillEncoded,
  layout,
  Masks,
  paragraphs,
  plainStyle,
  runChecks,
  valuesFor,
  type Block,
  type CheckContext,
  type Condition,
  type Email,
  type MergeContext,
  type Sequence,
} from '@ascenso/core';
import { addressesFor } from '../../server/src/engine/message.ts';
import { inTurn } from './support/measure.ts';
import { asLiquid } from './support/letter.ts';
import { emailStep } from './support/steps.ts';

const style = {
  ...plainStyle,
  brand: 'Foldwell Bindery',
  postalAddress: 'Foldwell Bindery, Rua das Gáveas 12, Lisboa',
};
const field = (path: string) => ({ path, fallback: 'none', filters: [] });
const tagged = (tag: string): Condition => ({ kind: 'tag', tag, has: true });
const line = 'Fold along the grain, always. Press the fold flat with a bone folder, then turn the sheet. ';

/** Forty blocks of many kinds, as a long letter has them: 15 merge fields, three conditions, a repeat. */
function long(): Email {
  let n = 0;
  const newId = () => `b${++n}`;
  const text = (more: object = {}): Block => ({
    kind: 'text',
    id: newId(),
    doc: paragraphs([line, field(`subscriber.f${n % 15}`), '. ', line.repeat(2)]),
    ...more,
  });
  const some = (): Block[] => [
    { kind: 'heading', id: newId(), text: `Evening {{ subscriber.f${n % 15} | default: "one" }}`, level: 2 },
    text(),
    text(),
    { kind: 'list', id: newId(), marker: 'tick', items: ['Paper', 'Thread', 'Needle'] },
    { kind: 'image', id: newId(), file: 'cover', alt: 'A cover', link: 'https://foldwell.example/', width: 536 },
    { kind: 'button', id: newId(), label: 'See how', address: 'https://foldwell.example/how' },
    { kind: 'divider', id: newId() },
    {
      ...blockKinds.columns.blank(newId),
      columns: [1, 2].map(() => ({ id: newId(), share: 1, blocks: [text() as never] })),
    },
  ];
  const repeat: Block = {
    ...blockKinds.repeat.blank(newId),
    list: 'event.lines',
    link: 'page',
    picture: { on: true, field: 'image' },
    title: { on: true, field: 'title' },
    price: { on: true, field: 'price' },
    quantity: { on: true, field: 'quantity' },
  };
  const versions: Block[] = [
    text({ when: { chain: 'if', condition: tagged('a') } }),
    text({ when: { chain: 'elseif', condition: tagged('b') } }),
    text({ when: { chain: 'else' } }),
  ];
  const blocks = [
    ...some(),
    ...some(),
    ...some(),
    ...some(),
    repeat,
    ...versions,
    text(),
    text(),
    { kind: 'footer' as const, id: newId(), reason: '' },
  ];
  return {
    sender: '',
    subject: 'Evening for {{ subscriber.f1 | default: "reader" }}',
    preview: 'A minute with the needle',
    blocks,
  };
}

/** Compiles per second, against the bare layout compiler on the very same tree. */
export async function compile(): Promise<void> {
  const email = long();
  const { tree } = layout(email, new Masks(), style, {});
  const bare = JSON.stringify(tree);
  await inTurn(
    `compile of ${email.blocks.length} blocks (aim: at least 1/1.2 of the bare layout compiler)`,
    'emails/s',
    async () => {
      for (let i = 0; i < 10; i++) await compileEmail(email, style);
      return 10;
    },
    async () => {
      for (let i = 0; i < 10; i++) await compileTree(JSON.parse(bare) as typeof tree);
      return 10;
    },
  );
}

/** All checks of that email per second, against its compile. */
export async function checks(): Promise<void> {
  const email = long();
  const step = emailStep('long', { email });
  const sequence = { triggers: [], steps: [step], filter: null, goal: null } as unknown as Sequence;
  const context: CheckContext = {
    style,
    fields: { subscriber: Array.from({ length: 15 }, (_, i) => `f${i}`), event: ['lines'], sender: [] },
    always: [],
    items: { 'event.lines': ['image', 'title', 'price', 'quantity', 'page'] },
    senders: [],
    files: [],
    shared: {},
    offers: [],
    lists: [],
    segments: [],
    self: null,
    sequences: [],
    bytes: {},
  };
  await inTurn(
    'checks of that email (aim: at least twice as fast as its compile)',
    'emails/s',
    () => {
      for (let i = 0; i < 50; i++) runChecks(sequence, context);
      return 50;
    },
    async () => {
      for (let i = 0; i < 5; i++) await compileEmail(email, style);
      return 5;
    },
  );
}

/** Personal renders to bytes, with fields, conditions and a repeat, against liquidjs on the whole template. */
export async function personal(): Promise<void> {
  const program = await compileEmail(long(), style);
  const encoded = encodeProgram(program);
  const addresses = addressesFor('http://ascenso.test', () => 'token');
  const engine = new Liquid({ ownPropertyOnly: true, outputEscape: 'escape' });
  const template = engine.parse(asLiquid(program, program.html));
  const lines = [1, 2, 3].map((i) => ({
    title: `Kit ${i}`,
    price: 18 + i,
    quantity: i,
    page: `https://foldwell.example/${i}`,
    image: 'https://foldwell.example/kit.png',
  }));
  const context = (n: number): MergeContext => ({
    subscriber: Object.fromEntries(Array.from({ length: 15 }, (_, i) => [`f${i}`, `Value ${n}-${i}`])),
    event: { lines },
    sender: {},
    holds: (c) => c.kind === 'tag' && c.tag === (n % 3 === 0 ? 'a' : 'b'),
  });
  const N = 1500;
  const links = {
    base: addresses.base,
    open: addresses.open,
    unsubscribe: addresses.unsubscribe,
    link: `${addresses.base}/c/token`,
  };
  await inTurn(
    `personal render (${Math.round(program.bytes / 1000)} kB, 15 fields, a chain of three, a repeat of three lines; against liquidjs, aim 4)`,
    'renders/s',
    () => {
      let bytes = 0;
      for (let n = 0; n < N; n++)
        bytes += Buffer.from(
          fillEncoded(encoded.html, program, valuesFor(program, context(n)), addresses),
          'latin1',
        ).length;
      return bytes > 0 ? N : 0;
    },
    () => {
      let bytes = 0;
      for (let n = 0; n < N; n++)
        bytes += Buffer.from(
          String(engine.renderSync(template, { ...context(n), picks: { c0: n % 3 === 0 ? 0 : 1 }, addresses: links })),
          'utf8',
        ).length;
      return bytes > 0 ? N : 0;
    },
  );
}
