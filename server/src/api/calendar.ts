import { Router } from 'express';
import ical from 'ical-generator';
import { namesOf } from '@ascenso/contracts';
import {
  type EmailStep,
  type Facts,
  factsAbout,
  fieldText,
  findStep,
  indexSteps,
  isZone,
  landings,
  MINUTE,
  readTemplate,
  type Sequence,
  stepWords,
  traceNames,
  wayWords,
} from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { getSequence } from '../db/sequences.ts';
import { hasPerson } from '../db/people.ts';
import { loadNamed } from '../db/surroundings.ts';
import { loadFacts } from '../db/facts.ts';
import { mergeContext } from '../engine/merging.ts';
import { keptForecast } from './forecasts.ts';

/** An entry of the calendar is as long as it takes to see it, ms. */
const LENGTH = 15 * MINUTE;

/** When what goes out: one sequence as iCalendar (RFC 5545), and everybody's volume by day. */
export function calendarRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  async function factsOf(ws: string, person: string | undefined, zone: string): Promise<Facts> {
    if (!person) return factsAbout({ zone, zoneAssumed: true });
    if (!(await hasPerson(db, ws, person))) throw invalid('person', 'There is no such person.');
    const wanted = {
      workspace_id: ws,
      visit_id: 'calendar',
      person_id: person,
      events: [],
      emails: false,
      links: false,
      segments: [],
    };
    return (await loadFacts(db, [wanted])).get('calendar') ?? factsAbout({ zone, zoneAssumed: true });
  }

  route(router, ctx, 'get', '/sequences/:id/calendar.ics', {}, async ({ ws, me, params, query, res }) => {
    const { draft } = await getSequence(db, ws, params.id as string);
    const at = query.at === undefined ? await businessNow(db) : Number(query.at);
    if (!Number.isInteger(at) || Math.abs(at) > 8.64e15)
      throw invalid('at', 'The moment of entry is epoch milliseconds.');
    const facts = await factsOf(ws, query.person, me.workspace.zone);
    if (!isZone(facts.person.zone)) throw invalid('person', 'That person has no known time zone.');
    const text = calendarText(params.id as string, draft, namesOf(await loadNamed(db, ws)), facts, at);
    res
      .type('text/calendar')
      .attachment(`${draft.name.replace(/[^\p{L}\p{N} -]/gu, '')}.ics`)
      .send(text);
  });

  route(router, ctx, 'get', '/forecast', {}, (call) => keptForecast(ctx, call));
  return router;
}

/** The emails of a sequence as events of a calendar, in UTC: an email that several ways share at one moment stands once. */
export function calendarText(
  id: string,
  sequence: Sequence,
  words: ReturnType<typeof namesOf>,
  facts: Facts,
  at: number,
): string {
  const names = traceNames(sequence, words, facts.person.zone);
  const steps = indexSteps(sequence);
  const { ways } = landings({ sequence, at, entry: {}, facts });
  const found = new Map<string, { step: string; at: number; ways: string[] }>();
  for (const way of ways)
    for (const l of way.landings) {
      const key = `${l.step}/${l.at}`;
      const known = found.get(key) ?? { step: l.step, at: l.at, ways: [] };
      known.ways.push(wayWords(way, steps, names));
      found.set(key, known);
    }
  const calendar = ical({ name: sequence.name, prodId: { company: 'Ascenso', product: 'Sequence calendar' } });
  const placed = new Map<string, number>();
  for (const e of [...found.values()].sort((a, b) => a.at - b.at)) {
    const step = findStep(sequence, e.step)?.step;
    if (step?.kind !== 'email') continue;
    // The same from export to export, whenever that is: the place of an email among its own, for whom it is looked at.
    const n = (placed.get(e.step) ?? 0) + 1;
    placed.set(e.step, n);
    calendar.createEvent({
      id: `${id}/${facts.person.id}/${e.step}/${n}@ascenso`,
      start: new Date(e.at),
      end: new Date(e.at + LENGTH),
      stamp: new Date(at),
      summary: stepWords(step, names),
      description: [
        `Subject: ${subjectFor(step, sequence, facts, e.at)}`,
        ...(e.ways.length < ways.length ? [`For whoever goes: ${e.ways.join('; or: ')}`] : []),
      ].join('\n'),
    });
  }
  // Each line ends with CRLF, the last one too (RFC 5545, 3.1).
  return `${calendar.toString()}\r\n`;
}

/** The subject as that person would read it; where nobody is chosen, with what stands in for their values. */
function subjectFor(step: EmailStep, sequence: Sequence, facts: Facts, at: number): string {
  const context = mergeContext(facts, {
    entry: null,
    sender: { name: '', email: '', fields: {} },
    currency: 'EUR',
    sequence: { name: sequence.name, email: step.name },
    asking: { now: at, enteredAt: at, stepTimes: {} },
  });
  return readTemplate(step.email.subject)
    .pieces.map((p) => (typeof p === 'string' ? p : fieldText(p, context)))
    .join('');
}
