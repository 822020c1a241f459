import { sql } from 'drizzle-orm';
import type { PersonFile } from '@ascenso/contracts';
import { fillProgram, targetOfLink, type Program } from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { unpackValues } from '../db/packed.ts';
import { personStory } from '../db/people.ts';
import { firstRow, rows } from '../db/rows.ts';
import { addressesFor } from '../engine/message.ts';

type Of<K extends keyof PersonFile> = PersonFile[K] extends (infer T)[] ? T : PersonFile[K];

const iso = (at: number): string => new Date(at).toISOString();

interface SentRow {
  id: string;
  sequence: string;
  sent_at: number;
  to: string;
  /** Packed. */
  values: Buffer;
  program: Program;
  dictionary: Buffer | null;
}

/** Every email as it was sent to them, with what they opened and clicked. */
async function emailsOf(db: Executor, ws: string, id: string): Promise<Of<'emails'>[]> {
  const sent = await rows<SentRow>(
    db,
    sql`select s.id, q.name as sequence, s.sent_at, s."to", s."values", p.program, p.dictionary from sends s
        join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash
        join sequences q on q.workspace_id = s.workspace_id and q.id = s.sequence_id
        where s.workspace_id = ${ws} and s.person_id = ${id} and s.visit_id is not null and s.sent_at is not null and s."values" is not null order by s.sent_at, s.id`,
  );
  const readings = await rows<{
    send: string;
    kind: 'open' | 'click';
    at: number;
    n: number;
    r: number | null;
    i: number | null;
  }>(
    db,
    sql`select r.send_id as send, r.kind, r.at, r.link_number as n, r.link_repeat as r, r.link_item as i from sends s join readings r on r.workspace_id = s.workspace_id and r.send_id = s.id
        where s.workspace_id = ${ws} and s.person_id = ${id} and not r.prefetched order by r.at`,
  );
  return sent.map(({ program, dictionary, ...row }) => {
    const values = unpackValues(row.values, dictionary);
    const { subject, text, html } = fillProgram(program, values, {
      ...addressesFor('', () => 'shown'),
      base: '',
      open: 'data:,',
      unsubscribe: '#',
      link: (_n, target) => target,
    });
    const own = readings.filter((r) => r.send === row.id);
    return {
      sequence: row.sequence,
      sent_at: iso(row.sent_at),
      to: row.to,
      subject,
      text,
      html,
      opened: own.flatMap((r) => (r.kind === 'open' ? [iso(r.at)] : [])),
      clicked: own
        .filter((r) => r.kind === 'click')
        .map((r) => ({
          at: iso(r.at),
          address: targetOfLink(program, values, { number: r.n, repeat: r.r, item: r.i })?.target ?? '',
        })),
    };
  });
}

/** Everything that is kept of a person, in a form of its own (Regulation (EU) 2016/679, articles 15 and 20). */
export async function personFile(db: Executor, ws: string, id: string, zone: string, now: number): Promise<PersonFile> {
  const { person, ends, offers, story, consent } = await personStory(db, ws, id, zone);
  const when = (at: number | null) => (at === null ? null : iso(at));
  const lists = await rows<{ name: string; state: string; at: number }>(
    db,
    sql`select l.name, m.state, m.at from memberships m join lists l on l.workspace_id = m.workspace_id and l.id = m.list_id where m.workspace_id = ${ws} and m.person_id = ${id} order by m.at`,
  );
  const happened = await rows<{ name: string; at: number; payload: Record<string, unknown> }>(
    db,
    sql`select name, occurred_at as at, payload from events where workspace_id = ${ws} and person_id = ${id} order by occurred_at, id`,
  );
  const wishes = await firstRow<{ paused: number | null; pace: number | null }>(
    db,
    sql`select paused_until as paused, pace from people where workspace_id = ${ws} and id = ${id}`,
  );
  const { name } = (await firstRow<{ name: string }>(db, sql`select name from workspaces where id = ${ws}`)) ?? {
    name: '',
  };
  return {
    format: 'ascenso-person',
    version: 1,
    made_at: iso(now),
    kept_by: name,
    person: {
      email: person.email,
      attributes: person.attributes,
      tags: person.tags,
      zone: person.zone,
      points: person.points,
      since: iso(person.createdAt),
    },
    mail: {
      unsubscribed_at: when(ends.unsubscribed),
      bounced_at: when(ends.bounced),
      complained_at: when(ends.complained),
      paused_until: when(wishes?.paused ?? null),
      days_between: wishes?.pace ?? null,
    },
    lists: lists.map((l) => ({ list: l.name, state: l.state, since: iso(l.at) })),
    consent: consent.map(({ id: _, at, ...c }) => ({ ...c, at: iso(at) })),
    events: happened.map((e) => ({ name: e.name, at: iso(e.at), data: e.payload })),
    offers: offers.map((o) => ({
      offer: o.name,
      given_at: iso(o.openedAt),
      closes_at: when(o.closesAt),
      code: o.code,
      used_at: when(o.usedAt),
    })),
    emails: await emailsOf(db, ws, id),
    story: story.map((s) => ({ at: iso(s.at), text: s.text, sequence: s.sequence?.name ?? null })),
  };
}
