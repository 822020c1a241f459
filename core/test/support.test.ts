import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect, test } from 'vitest';
import { compileEmail, fillProgram, plainStyle, supportOf, valuesFor } from '../src/email/index.ts';
import { everyKind } from './every-kind.ts';

interface Data {
  data: { slug: string; stats: Record<string, Record<string, Record<string, string>>> }[];
}
// The package exports its checker only; the data lies beside it.
const entry = createRequire(import.meta.url).resolve('caniemail');
const data = JSON.parse(
  readFileSync(entry.replace(/caniemail[\\/].*$/, 'caniemail/data/caniemail.json'), 'utf8'),
) as Data;

test('what is told of an email is what the data says of its features, no more and no less', async () => {
  const program = await compileEmail(everyKind(), plainStyle);
  const { html } = fillProgram(program, valuesFor(program, { subscriber: {}, event: {}, sender: {} }), {
    base: '',
    open: '',
    unsubscribe: '#',
    link: () => '#',
    timer: () => '',
  });
  const told = supportOf(html);
  expect(told.map((t) => t.feature)).toContain('css-border-radius');
  expect(told.map((t) => t.feature)).not.toContain('css-display-grid');
  for (const { feature, programs } of told) {
    const stats = data.data.find((f) => f.slug === feature)?.stats ?? {};
    const newest = Object.values(stats).flatMap((platforms) =>
      Object.values(platforms).map((v) => String(Object.values(v).at(-1))),
    );
    expect([feature, programs.length]).toEqual([feature, newest.filter((v) => v.startsWith('n')).length]);
  }
});

test('one thing more in the email is one thing more told', () => {
  const plain = '<p style="color:red">a</p>';
  expect(supportOf(plain)).toEqual([]);
  expect(supportOf('<p style="color:red;text-shadow:1px 1px red">a</p>').map((t) => t.words)).toEqual(['text-shadow']);
  expect(
    supportOf(`${plain}<style>@media (prefers-color-scheme:dark){p{color:white}}</style>`).map((t) => t.words),
  ).toContain('@media prefers-color-scheme');
});
