import { Router } from 'express';
import ical from 'ical-generator';
import { namesOf } from '@ascenso/contracts';
import {
  findStep,
  indexSteps,
  landings,
  stepWords,
  traceNames,
  wayWords,
  isZone,
  MINUTE,
  type Facts,
  type Sequence,
} from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import { getSequence } from '../db/sequences.ts';
import { hasPerson } from '../db/people.ts';
import { loadNamed } from '../db/surroundings.ts';
import { loadFacts } from '../db/facts.ts';
import { forecast } from '../jobs/forecast.ts';

/** An entry of the calendar is as long as it takes to see it, ms. */
const LENGTH = 15 * MINUTE;

const somebody = (zone: string): Facts => ({
  person: {
    id: 'calendar',
    email: '',
    mailStatus: 'ok',
    zone,
    zoneAssumed: true,
    attributes: {},
    tags: [],
    points: 0,
    lists: {},
  },
  events: [],
  emails: {},
});

/** When what goes out: one sequence as iCalendar (RFC 5545), and everybody's volume by day. */
export function calendarRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  async function factsOf(ws: string, person: string | undefined, zone: string): Promise<Facts> {
    if (!person) return somebody(zone);
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
    return (await loadFacts(db, [wanted])).get('calendar') ?? somebody(zone);
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

  route(router, ctx, 'get', '/forecast', {}, async ({ ws, me }) =>
    forecast(db, ws, me.workspace.zone, await businessNow(db)),
  );
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
  for (const e of [...found.values()].sort((a, b) => a.at - b.at)) {
    const step = findStep(sequence, e.step)?.step;
    if (step?.kind !== 'email') continue;
    calendar.createEvent({
      id: `${id}/${e.step}/${e.at}@ascenso`,
      start: new Date(e.at),
      end: new Date(e.at + LENGTH),
      stamp: new Date(at),
      summary: stepWords(step, names),
      description: [
        `Subject: ${step.email.subject}`,
        ...(e.ways.length < ways.length ? [`For whoever goes: ${e.ways.join('; or: ')}`] : []),
      ].join('\n'),
    });
  }
  return calendar.toString();
}
