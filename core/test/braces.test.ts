import { describe, expect, test } from 'vitest';
import { runChecks } from '../src/checks/index.ts';
import {
  blockKinds,
  blockSchema,
  emailSchema,
  paragraphs,
  walkBlocks,
  withChips,
  type Block,
  type Email,
} from '../src/email/index.ts';
import { context, good } from './check-case.ts';
import { everyKind } from './every-kind.ts';
import { sequence } from './support.ts';

// No raw brace ever leaves: a fault is put into every property that takes words, of every kind of block and of the email
// itself, and has to be found there. Which properties take words is asked of the schema alone: it takes the fault.
const FAULT = 'Dear {{ event.nope';

/** Places of all strings in a value, as paths. */
function strings(value: unknown, path: (string | number)[] = []): (string | number)[][] {
  if (typeof value === 'string') return [path];
  if (typeof value !== 'object' || value === null) return [];
  return Object.entries(value).flatMap(([key, inner]) =>
    strings(inner, [...path, Array.isArray(value) ? Number(key) : key]),
  );
}

function put<T>(value: T, [key, ...rest]: (string | number)[], text: string): T {
  if (key === undefined) return text as T;
  const copy = (Array.isArray(value) ? [...(value as unknown[])] : { ...value }) as Record<string | number, unknown>;
  copy[key] = put(copy[key], rest, text);
  return copy as T;
}

const readAt = (value: unknown, path: (string | number)[]): unknown =>
  path.reduce<unknown>((v, key) => (v as Record<string | number, unknown>)[key], value);

/**
 * Strings that are no words: names by which things are found, which never stand in the email themselves. A fault in one is
 * another check's matter (the thing is not there).
 */
const NO_WORDS =
  /(^|\.)(id|kind|file|name|path|shared|source-of|tag|attribute|event|list|segment|step|offer|zone|wall|language)$/;
const isWords = (path: (string | number)[]) => !NO_WORDS.test(path.filter((p) => typeof p === 'string').join('.'));

const all = everyKind();
const kinds: [string, Block][] = walkBlocks(all.blocks).map(({ block }) => [block.kind, block]);
// What stands inside another block is tried by itself.
const own = (block: Block): Block =>
  block.kind === 'columns'
    ? { ...block, columns: block.columns.map((c) => ({ ...c, blocks: [] })) }
    : block.kind === 'section'
      ? { ...block, blocks: [] }
      : block;

/** Every kind with everything in it that it can hold. */
const full: Block[] = [
  ...kinds.map(([, block]) => own(block)),
  {
    ...blockKinds.timer.blank(() => 'afterwards'),
    says: 'Ends',
    after: { kind: 'message', text: 'It is over' },
  },
];

const cases = full.flatMap((block) =>
  strings(block)
    .filter(isWords)
    .map((path) => ({ block, path, faulty: put(block, path, `${String(readAt(block, path))} ${FAULT}`) }))
    .filter(({ faulty }) => blockSchema.safeParse(faulty).success)
    .map(({ block: { kind }, path, faulty }) => [kind, path.join('.'), faulty] as const),
);

const found = (email: Partial<Email>) => {
  const step = good(email);
  return runChecks(sequence([step]), context({ fields: { subscriber: ['first_name'], event: [], sender: [] } })).filter(
    (f) => f.check === 'raw-brace',
  );
};

describe('a brace that is never closed is found in every property that takes words', () => {
  test('the cases reach every kind that has words', () => {
    const wordless = ['divider', 'spacer', 'logo', 'social', 'columns', 'section', 'shared'];
    expect([...new Set(cases.map(([kind]) => kind))].sort()).toEqual(
      Object.keys(blockKinds)
        .filter((k) => !wordless.includes(k))
        .sort(),
    );
  });

  test.each(cases)('%s: %s', (_kind, path, block) => {
    const findings = found({ blocks: [block] });
    expect([path, findings.map((f) => f.place.block)]).toEqual([path, expect.arrayContaining([block.id])]);
    expect(findings[0]?.level).toBe('error');
  });

  const envelope: [string, Partial<Email>][] = [
    ['subject', { subject: FAULT }],
    ['preview', { preview: FAULT }],
    ['reader’s name', { toName: FAULT }],
    ['where answers go', { replyTo: `${FAULT}@foldwell.example` }],
    ['plain text by hand', { text: { words: FAULT, over: '' } }],
    ['own HTML', { mode: 'html', html: `<p>${FAULT}</p>` }],
    ['an address in own HTML', { mode: 'html', html: `<a href="https://foldwell.example/${FAULT}">x</a>` }],
  ];
  test.each(envelope)('the email itself: %s', (_what, email) => {
    expect(emailSchema.safeParse({ ...good().email, ...email }).success).toBe(true);
    expect(found(email).length).toBeGreaterThan(0);
  });

  test('what closes nothing, what is no field, and a fallback with braces', () => {
    for (const subject of [
      'Hello first_name }}',
      'Hello {{ first name }}',
      '{{ subscriber.first_name | default: "{{x" }}',
    ])
      expect([subject, found({ subject }).length]).toEqual([subject, 1]);
    expect(found({ subject: 'Hello {{ subscriber.first_name | default: "reader" }}' })).toEqual([]);
  });

  test('a note to the team', () => {
    const noted = (text: string) =>
      runChecks(
        sequence([
          good(),
          { id: 'tell', kind: 'action', on: true, note: '', action: { type: 'tell-team', to: 'a@team.example', text } },
        ]),
        context(),
      )
        .filter((f) => f.level === 'error')
        .map((f) => f.check);
    expect(noted(FAULT)).toEqual(['raw-brace-in-note']);
    expect(noted('{{ subscriber.nope }} came')).toEqual(['unknown-field-in-note']);
    expect(noted('{{ subscriber.first_name }} came')).toEqual([]);
  });
});

describe('a field that is written out in a text', () => {
  const written = 'Dear {{ subscriber.first_name | default: "reader" }}, {{ event.nope';
  const block: Block = { kind: 'text', id: 'pasted', doc: paragraphs(written) };

  test('is an error that one press mends; what is no field stays, and stays an error', () => {
    const [finding] = found({ blocks: [block] });
    expect(finding?.repair?.label).toBe('Make fields of them');
    const doc = withChips(block.doc);
    expect(doc.content[0]).toEqual({
      type: 'paragraph',
      content: [
        { type: 'text', text: 'Dear ' },
        { type: 'field', attrs: { path: 'subscriber.first_name', fallback: 'reader', filters: [] } },
        { type: 'text', text: ', {{ event.nope' },
      ],
    });
    const left = found({ blocks: [{ ...block, doc }] });
    expect(left.map((f) => [f.place.block, f.repair])).toEqual([['pasted', undefined]]);
  });

  test('keeps its marks', () => {
    const bold = { type: 'text' as const, text: '{{ subscriber.first_name }}', marks: [{ type: 'bold' as const }] };
    const doc = withChips({ type: 'doc', content: [{ type: 'paragraph', content: [bold] }] });
    expect(doc.content[0]).toMatchObject({ content: [{ type: 'field', marks: [{ type: 'bold' }] }] });
  });
});
