import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import {
  compileEmail,
  emailSteps,
  encodeProgram,
  paragraphs,
  plainStyle,
  runChecks,
  pointsOf,
  spamReasons,
  valuesFor,
  type Block,
  type Email,
  type EmailStep,
  type MergeContext,
  type Program,
  type Sequence,
} from '@ascenso/core';
import { checkContext } from '@ascenso/contracts';
import { allSequences } from '../../demo/src/sequences/index.ts';
import { useMasthead } from '../../demo/src/letters.ts';
import { buildMessage } from '../src/mail/mime.ts';
import { badEmails } from './support/spam-samples.ts';
import { emailStep } from './support/world.ts';

// SpamAssassin from Debian's packages, offline: its rules are the outside's, ours only mirror some of them. `npm test` installs it.
const READER = '/usr/share/perl5/Mail/SpamAssassin.pm';
const script = path.resolve(import.meta.dirname, '../../scripts/spam.pl');
const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-spam-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
beforeAll(() => {
  if (!existsSync(READER)) throw new Error('SpamAssassin is not installed: apt-get install spamassassin');
});

interface Verdict {
  score: number;
  rules: string[];
}

/** What SpamAssassin says of messages, in their order: all of them in one run, since its rules take seconds to read. */
function judged(messages: readonly string[]): Verdict[] {
  const files = messages.map((m, i) => {
    const file = path.join(folder, `${i}.eml`);
    writeFileSync(file, m);
    return file;
  });
  const out = execFileSync('perl', [script, ...files], { encoding: 'utf8', maxBuffer: 10_000_000 });
  return out
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Verdict);
}

const style = {
  ...plainStyle,
  brand: 'Foldwell Bindery',
  postalAddress: 'Foldwell Bindery, Rua das Gáveas 12, Lisboa',
};
const masthead: Block = { id: 'mast', kind: 'heading', text: 'Foldwell Bindery', level: 1 };
const context: MergeContext = {
  subscriber: { first_name: 'Marta' },
  event: {
    total: 26,
    lines: [{ title: 'Long-stitch kit', price: 26, quantity: 1, page: 'https://foldwell.example/kit' }],
    return_to: 'https://foldwell.example/cart/1',
    number: 1187,
    title: 'The Herbal of 1892',
    binder: 'Tomasz',
    done: 'new spine',
    pick_up: 'https://foldwell.example/repairs/1187',
    starts_at: '2026-12-10T19:00:00Z',
    product: 'Kit',
    page: 'https://foldwell.example/kit',
  },
  offer: {
    name: 'Kit offer',
    around: { before: '', after: 'one order' },
    code: 'KIT-AC34-VW7T',
    deadline: '2026-12-10T19:00:00Z',
    left: '2 days',
  },
  sender: { name: 'Inês at Foldwell', email: 'ines@foldwell.example', role: 'Marketing', photo: 'p' },
};

let sends = 0;
/** The message as it leaves the house, with the headers that a receiving server puts on top. */
async function message(email: Email): Promise<string> {
  const compiled = await compileEmail(email, style, { shared: { masthead: [masthead] } });
  // It reckons the share of pictures from both their sides: the picture of these samples is three to two.
  const program = JSON.parse(
    JSON.stringify(compiled).replaceAll('width=\\"536\\"', 'width=\\"536\\" height=\\"357\\"'),
  ) as Program;
  const id = `00000000-0000-7000-8000-${String(++sends).padStart(12, '0')}`;
  const base = 'https://mail.foldwell.example';
  const built = buildMessage({
    sendId: id,
    program,
    encoded: encodeProgram(program),
    values: valuesFor(program, context),
    addresses: {
      base,
      unsubscribe: `${base}/u/${id}`,
      open: `${base}/o/${id}.gif`,
      link: (ref) => `${base}/c/${id}/${ref}`,
      timer: (n) => `${base}/t/${id}/${n}.gif`,
    },
    from: { name: 'Inês at Foldwell', email: 'ines@foldwell.example' },
    to: { name: '', email: 'marta@readers.example' },
    date: Date.now(),
    list: { id: 'letters.foldwell.example', name: 'Workshop letters' },
  });
  const stamp = new Date().toUTCString().replace('GMT', '+0000');
  return `Return-Path: <ines@foldwell.example>\r\nReceived: from mail.foldwell.example (mail.foldwell.example [93.184.216.34]) by mx.readers.example with ESMTPS id ${sends}; ${stamp}\r\n${built}`;
}

const pictures = { cover: 'cover', papers: 'papers', kits: 'kits' };
const ids = {
  letters: 'letters',
  tomasz: 'tomasz',
  guide: 'guide',
  pictures,
  offers: { kit: 'kit', cart: 'cart', look: 'look' },
};

const demoEmails = (): EmailStep[] => {
  useMasthead('masthead');
  return allSequences(ids).flatMap(emailSteps);
};

test('every email of the demo stays well under the line: a score below 2', async () => {
  const emails = demoEmails();
  expect(emails.length).toBeGreaterThan(20);
  const verdicts = judged(await Promise.all(emails.map((s) => message(s.email))));
  const heavy = emails.flatMap((s, i) =>
    (verdicts[i]?.score ?? 9) < 2 ? [] : [`${s.name}: ${verdicts[i]?.score} ${verdicts[i]?.rules.join(' ')}`],
  );
  expect(heavy).toEqual([]);
  console.log(`${emails.length} emails, highest score ${Math.max(...verdicts.map((v) => v.score))}`);
}, 120_000);

const footer: Block = { kind: 'footer', id: 'foot', reason: '' };
const words =
  'Fold along the grain, and the sheet lies flat for good. Fold across it, and it will stand up again by the morning. ';
const sample = (more: Partial<Email>): EmailStep => {
  const step = emailStep('Sample');
  return {
    ...step,
    email: {
      ...step.email,
      subject: 'Your stitch guide is here',
      blocks: [{ kind: 'text', id: 't', doc: paragraphs(words.repeat(6)) }, footer],
      ...more,
    },
  };
};
const picture: Block = { kind: 'image', id: 'i', file: 'cover', alt: '', link: '', width: 536 };

/** A workspace with nothing in it. */
const around = {
  style,
  kinds: [],
  attributes: [],
  senders: [],
  files: [],
  shared: [],
  offers: [],
  forms: [],
  now: 0,
  lists: [],
  segments: [],
  sequences: [],
  tags: [],
  words: [],
  currency: 'EUR',
  dailyCap: null,
  graceMinutes: 0,
};

const findings = (step: EmailStep) => {
  const doc = { triggers: [], steps: [step], filter: null, goal: null, list: 'letters' } as unknown as Sequence;
  return runChecks(doc, checkContext(null, doc, around, {}));
};

/** Pairs that differ in one thing: the named rule and our check flip together. */
const pairs: [check: string, rule: RegExp, bad: Partial<Email>, good: Partial<Email>][] = [
  ['shouting', /^SUBJ_ALL_CAPS$/, { subject: 'YOUR STITCH GUIDE IS HERE' }, { subject: 'Your stitch guide is here' }],
  ['exclamations', /^PLING_QUERY$/, { subject: 'Have you folded it yet?!' }, { subject: 'Have you folded it yet?' }],
  [
    'mostly-pictures',
    /^HTML_IMAGE_RATIO_\d\d$/,
    { blocks: [picture, { kind: 'text', id: 't', doc: paragraphs('Look at this.') }, footer] },
    { blocks: [picture, { kind: 'text', id: 't', doc: paragraphs(words.repeat(32)) }, footer] },
  ],
];

describe('our spam checks and the rules they mirror', () => {
  test.each(pairs)(
    '%s flips together with %s',
    async (check, rule, bad, good) => {
      const steps = [sample(bad), sample(good)];
      const ours = steps.map((s) => findings(s).some((f) => f.check === check));
      const theirs = judged(await Promise.all(steps.map((s) => message(s.email)))).map((v) =>
        v.rules.some((r) => rule.test(r)),
      );
      expect({ ours, theirs }).toEqual({ ours: [true, false], theirs: [true, false] });
    },
    60_000,
  );
});

/** Checks of ours that tell of what filters count. */
const OURS: readonly string[] = ['reads-as-spam', 'shouting', 'exclamations', 'mostly-pictures', 'number-link'];

test('thirty emails that nobody should send and thirty of the demo: the same points as SpamAssassin, nearly, and the same two heaps', async () => {
  const bad = badEmails.map(([what, email]) => ({ what, step: sample(email) }));
  const good = demoEmails().map((step) => ({ what: step.name, step }));
  const kits = sample({});
  const all = [...bad, ...good, { what: 'one more of ours', step: kits }].slice(0, 60);
  expect(all).toHaveLength(60);
  const theirs = judged(await Promise.all(all.map((e) => message(e.step.email))));
  const far = all.flatMap((e, i) => {
    // What they count of capitals, marks and pictures is told by checks of their own.
    const score = pointsOf(spamReasons(e.step.email));
    const other = (theirs[i]?.rules ?? []).filter((r) => /^(SUBJ_ALL_CAPS|PLING_QUERY|HTML_IMAGE)/.test(r));
    const off = Math.abs(score - (theirs[i]?.score ?? 0));
    return off <= 0.3 + 0.6 * other.length ? [] : [`${e.what}: ${score} here, ${theirs[i]?.score} there`];
  });
  expect(far).toEqual([]);
  const told = all.map((e) => findings(e.step).some((f) => OURS.includes(f.check)));
  expect(all.filter((_, i) => told[i] !== i < bad.length).map((e) => e.what)).toEqual([]);
}, 120_000);
