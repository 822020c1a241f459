import { monitorEventLoopDelay } from 'node:perf_hooks';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { learnt } from '../../src/people/event-kinds.ts';
import { ReportReader } from '../../src/mail/reading-reports.ts';
import { readReport } from '../../src/mail/reports.ts';
import { SEED } from '../support/chance.ts';

// What strangers send is read in time proportional to its length, and keeps nobody else waiting.

const REPORT = (field: string, value: string, more = '') =>
  [
    'Content-Type: multipart/report; report-type=delivery-status; boundary="b"',
    '',
    '--b',
    'Content-Type: message/delivery-status',
    '',
    'Reporting-MTA: dns; mx.example',
    '',
    'Final-Recipient: rfc822; a@x.example',
    'Action: failed',
    `${field}: ${value}`,
    more,
    '',
    '--b',
    'Content-Type: text/rfc822-headers',
    '',
    `List-Unsubscribe: ${value}`,
    'Subject: x',
    '',
    '--b--',
    '',
  ].join('\r\n');

/** Shapes that make a pattern go over the same letters again and again. */
const PIECES = [
  '(',
  ' ',
  '<',
  '>',
  ')',
  '\t',
  '<a',
  '/u/',
  '5.1.1 ',
  ';',
  ':',
  ',',
  '@',
  '"',
  '\\',
  '\r\n ',
  '=?utf-8?q?',
  '[',
  '{{',
];

/** Milliseconds that reading takes, the least of three: other work of the machine is no fault of the reader. */
async function msFor(text: string): Promise<number> {
  let least = Infinity;
  for (let i = 0; i < 3; i++) {
    const begun = performance.now();
    await readReport(Buffer.from(text, 'latin1'));
    least = Math.min(least, performance.now() - begun);
  }
  return least;
}

describe(`a report's fields, of 10 kB to 80 kB (seed ${SEED})`, () => {
  test.each(['Diagnostic-Code', 'Status', 'X-Other'])('%s', async (field) => {
    await fc.assert(
      fc.asyncProperty(fc.array(fc.constantFrom(...PIECES), { minLength: 1, maxLength: 3 }), async (pieces) => {
        const piece = pieces.join('');
        const of = (bytes: number) => REPORT(field, piece.repeat(Math.ceil(bytes / piece.length)));
        // Eight times the length is eight times the time, and not sixty-four; what takes no time at all says nothing. What is so
        // once is the machine's doing, what is so each time is the reader's.
        const seen: number[] = [];
        for (let look = 0; look < 4 && (seen.at(-1) ?? 99) >= 24; look++) {
          const [short, long] = [await msFor(of(10_000)), await msFor(of(80_000))];
          seen.push(long > 200 ? long / Math.max(short, 1) : 0);
        }
        expect(Math.min(...seen)).toBeLessThan(24);
      }),
      { numRuns: 25, seed: SEED },
    );
  });
});

test('mail that takes its reader long keeps nobody else waiting, and is given up', async () => {
  const reader = new ReportReader(new URL('../../dist/report-worker.js', import.meta.url));
  const to = `To: ${'a@x.example, '.repeat(65_000)}`;
  const late = monitorEventLoopDelay({ resolution: 5 });
  late.enable();
  const read = reader.read(Buffer.from(`${to}\r\n${REPORT('Status', '5.1.1')}`)).catch((error: unknown) => error);
  await read;
  late.disable();
  // 200 ms is the promise; a busy machine is given as much again.
  expect(late.max / 1e6).toBeLessThan(400);
});

describe('an event’s fields', () => {
  const many = (count: number, from = 0) =>
    Object.fromEntries(Array.from({ length: count }, (_, i) => [`field_${from + i}`, `value ${i}`]));

  test('5,000 of them are learned as quickly as 200 and a look at the rest', () => {
    const begun = performance.now();
    const kind = learnt(undefined, many(5_000));
    expect(performance.now() - begun).toBeLessThan(500);
    expect(kind.fields).toHaveLength(200);
    expect(JSON.stringify(kind.sample).length).toBeLessThanOrEqual(16_000);
    // What came first is what is known.
    expect(kind.fields.map((f) => f.name)).toEqual(Object.keys(many(200)));
  });

  test('a sample stays within its size, whatever comes, and holds nothing that is not a field', () => {
    fc.assert(
      fc.property(
        fc.array(fc.dictionary(fc.string({ maxLength: 130 }), fc.jsonValue(), { maxKeys: 40 }), { maxLength: 6 }),
        (payloads) => {
          let kind = learnt(undefined, {});
          for (const payload of payloads) kind = learnt(kind, payload);
          expect(JSON.stringify(kind.sample).length).toBeLessThanOrEqual(16_000);
          const names = new Set(kind.fields.map((f) => f.name));
          expect(Object.keys(kind.sample).filter((name) => !names.has(name))).toEqual([]);
          expect(names.size).toBe(kind.fields.length);
          expect(names.size).toBeLessThanOrEqual(200);
        },
      ),
      { numRuns: 200, seed: SEED },
    );
  });
});
