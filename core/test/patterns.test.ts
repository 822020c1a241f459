import { describe, expect, test } from 'vitest';
import { plainNames } from '../src/audience/index.ts';
import { runChecks } from '../src/checks/index.ts';
import { compileEmail, plainStyle } from '../src/email/index.ts';
import { landings } from '../src/rehearsal/index.ts';
import {
  copySequence,
  emailSteps,
  fromPattern,
  patterns,
  planText,
  sequenceSchema,
  walk,
  armsOf,
  type Ground,
} from '../src/sequence/index.ts';
import { context } from './check-case.ts';
import { DAY, facts, id, NOON } from './support.ts';

const ground: Ground = {
  newId: id,
  list: 'letters',
  events: ['order.paid', 'session.booked', 'club.renewed'],
  dates: ['birthday', 'renews_on'],
};
const around = context({
  fields: { subscriber: ['email', 'first_name', 'birthday', 'renews_on'], event: ['starts_at'], sender: ['name'] },
  files: [],
  self: null,
  sequences: [],
});
/** What a pattern leaves to its owner, and nothing else: addresses, words, the event it follows, whom it tells, what to click, which fields a list shows, which offer. */
const LEFT_TO_DO = ['dead-link', 'fill-in-words', 'unfinished', 'buttons', 'broken-part', 'without-offer'];

describe('patterns', () => {
  test.each(patterns.map((p) => [p.name, p] as const))(
    '%s is whole: its schema, its emails, its checks',
    async (_name, pattern) => {
      const doc = fromPattern(pattern, ground);
      expect(sequenceSchema.parse(doc)).toEqual(doc);
      const ids = walk(doc).flatMap(({ step }) => [step.id, ...armsOf(step).map((a) => a.id)]);
      expect(new Set(ids).size).toBe(ids.length);
      const findings = runChecks(doc, around);
      expect(findings.filter((f) => !LEFT_TO_DO.includes(f.check))).toEqual([]);
      // Untouched, no pattern can go out by mistake.
      expect(findings.some((f) => f.level === 'error')).toBe(true);
      expect(pattern.yours.length).toBeGreaterThan(0);
      for (const step of emailSteps(doc)) {
        expect(step.email.subject.length).toBeLessThanOrEqual(60);
        expect((await compileEmail(step.email, plainStyle)).bytes).toBeGreaterThan(1000);
      }
      // Somebody who enters gets something on every way.
      const event = { starts_at: '2026-04-01T18:00:00Z' };
      for (const way of landings({
        sequence: doc,
        at: NOON,
        entry: event,
        facts: facts({ attributes: { renews_on: '2026-03-27' } }),
      }).ways)
        expect(way.landings.length).toBeGreaterThan(0);
    },
  );

  test('a workspace without those events and dates gets them left open, not guessed', () => {
    for (const pattern of patterns) {
      const doc = fromPattern(pattern, { ...ground, list: null, events: [], dates: [] });
      expect(JSON.stringify(doc)).not.toMatch(/order\.paid|session\.booked|"attribute":"(birthday|renews_on)"/);
      expect(runChecks(doc, around).some((f) => f.level === 'error')).toBe(true);
    }
  });
});

test('a copy of a sequence shares no id with it, and what asks about its emails asks about the copies', () => {
  for (const pattern of patterns) {
    const doc = fromPattern(pattern, ground);
    const copy = copySequence(doc, id);
    const idsOf = (s: typeof doc) => walk(s).map((v) => v.step.id);
    expect(idsOf(copy).filter((i) => idsOf(doc).includes(i))).toEqual([]);
    const asked = JSON.stringify(copy);
    for (const old of idsOf(doc)) expect(asked).not.toContain(`"${old}"`);
    // The same but for the ids: their order of first appearance is all that differs.
    const shape = (s: typeof doc) => {
      const seen = new Map<string, string>();
      return JSON.stringify(s).replace(
        /"s\d+"/g,
        (m) => seen.get(m) ?? (seen.set(m, `"#${seen.size}"`), `"#${seen.size - 1}"`),
      );
    };
    expect(shape(copy)).toBe(shape(doc));
  }
});

test('a plan as text: how it starts, who, and each step in time, arms indented', () => {
  const guide = patterns.find((p) => p.id === 'guide-delivery');
  const text = planText(fromPattern(guide as NonNullable<typeof guide>, ground), plainNames);
  expect(text.split('\n').slice(0, 17)).toEqual([
    'Guide delivery',
    'Starts: When someone confirms “letters”',
    'Who may enter: everyone, once ever',
    'Mails: people on “letters”, priority 3, gives way to a later day',
    'Goal: none',
    '',
    'Day 0: email “Guide”, any day, any hour',
    '  Subject: Here is your guide',
    '1 day later',
    'Fetched the guide',
    expect.stringMatching(/^ {2}clicked in “s\d+”:$/),
    '    Day 1: email “Which page?”, any day, any hour',
    '      Subject: Which page did you need most?',
    '  Otherwise:',
    '    Day 1: email “Guide again”, any day, any hour',
    '      Subject: Your guide is still here',
    '3 days later',
  ]);
});

test('the weekday lessons of a course land on Monday to Thursday at seven, whatever the zone and the moment of joining', () => {
  const course = patterns.find((p) => p.id === 'course-by-email');
  const doc = fromPattern(course as NonNullable<typeof course>, ground);
  for (const zone of ['Europe/Lisbon', 'Asia/Kathmandu', 'America/St_Johns'])
    for (let day = 0; day < 7; day++) {
      const { ways, cut } = landings({ sequence: doc, at: NOON + day * DAY, entry: {}, facts: facts({ zone }) });
      expect([ways.length, cut]).toEqual([8, false]);
      for (const way of ways)
        for (const l of way.landings.slice(1)) {
          // The system's own zone data, through Intl, is the judge here.
          const told = new Intl.DateTimeFormat('en-GB', {
            timeZone: zone,
            weekday: 'short',
            hour: '2-digit',
            minute: '2-digit',
          }).format(l.at);
          expect(told).toMatch(/^(Mon|Tue|Wed|Thu),? 19:00$/);
        }
    }
});
