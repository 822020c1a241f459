import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import type { SequenceAnswer, Surroundings } from '@ascenso/contracts';
import {
  blankOffer,
  emailSteps,
  patterns,
  walk,
  walkBlocks,
  type Command,
  type Condition,
  type Finding,
  type Sequence,
  type Trigger,
} from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { emailStep, FRIDAY_NOON, owner, useWorld } from './support/world.ts';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const world = useWorld();
let agent: ReturnType<typeof request.agent>;
let offer: string;
let now = FRIDAY_NOON;

const CART = {
  lines: [
    {
      title: 'Long-stitch kit',
      quantity: 1,
      price: 24,
      image: 'https://foldwell.example/kit.png',
      url: 'https://foldwell.example/kits/1',
    },
    {
      title: 'Bone folder',
      quantity: 2,
      price: 7,
      image: 'https://foldwell.example/folder.png',
      url: 'https://foldwell.example/kits/2',
    },
  ],
  total: 38,
  return_to: 'https://foldwell.example/cart/77',
};
const KINDS: Record<string, Record<string, unknown>> = {
  'order.begun': CART,
  'cart.filled': CART,
  'order.paid': { total: 38 },
  'item.viewed': { product: 'Long-stitch kit', page: 'https://foldwell.example/kits/1' },
  'session.booked': { starts_at: '2026-12-01T18:00:00Z' },
  'club.renewed': {},
  'session.invited': { starts_at: '2026-12-01T18:00:00Z' },
};
const typeOf = (v: unknown) =>
  typeof v === 'number' ? 'number' : Array.isArray(v) ? 'list' : /^\d{4}-/.test(String(v)) ? 'date' : 'text';

beforeAll(async () => {
  await world.stand(now);
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  for (const [name, sample] of Object.entries(KINDS))
    await agent
      .put('/api/event-kinds')
      .send({
        name,
        label: name,
        sample,
        fields: Object.entries(sample).map(([f, v]) => ({ name: f, type: typeOf(v) })),
      })
      .expect(200);
  for (const key of ['birthday', 'renews_on'])
    await world.connection.db.execute(
      sql`insert into attributes (workspace_id, key, label, type, position) values (${world.ws}, ${key}, ${key}, 'date', 9) on conflict do nothing`,
    );
  offer = (
    (
      await agent
        .post('/api/offers')
        .send({ ...blankOffer(), name: 'Towards it' })
        .expect(200)
    ).body as { id: string }
  ).id;
});

const read = async (id: string) => (await agent.get(`/api/sequences/${id}`).expect(200)).body as SequenceAnswer;
async function save(id: string, commands: Command[]): Promise<void> {
  const { revision } = await read(id);
  await agent
    .post(`/api/sequences/${id}/commands`)
    .send({ base: revision, edits: [{ commands, role: 'edit' }] })
    .expect(200);
}

/** What its owner does about a finding, told by its words alone: what no repair can know is chosen or written. */
function follow(f: Finding, draft: Sequence, around: Surroundings): Command[] {
  if (f.repair) return f.repair.commands;
  const { step = '', block, part } = f.place;
  const set = (field: string, value: unknown): Command => ({
    type: 'block.set',
    step: step ?? '',
    block: block ?? '',
    field,
    value,
  });
  const fix = `${f.message} ${f.fix}`;
  const there = walk(draft).find((v) => v.step.id === step)?.step;
  const put = (field: string, value: unknown): Command[] => [{ type: 'step.set', step: step ?? '', field, value }];
  const ordered = (c: Condition): Condition =>
    JSON.parse(JSON.stringify(c).replaceAll('"event":""', '"event":"order.paid"')) as Condition;
  if (there?.kind === 'action') {
    const filled = {
      tag: 'quiet',
      list: world.list,
      to: 'ines@foldwell.example',
      url: 'https://foldwell.example/hook',
    };
    return put(
      'action',
      Object.fromEntries(Object.entries(there.action).map(([k, v]) => [k, k in filled ? filled[k as 'tag'] : v])),
    );
  }
  if (there?.kind === 'wait') return put('at', { ...there.at, field: 'event.starts_at' });
  if (/Choose what they did/.test(fix)) {
    if (there?.kind === 'until') return put('condition', ordered(there.condition));
    if (there?.kind === 'email' && there.forWhom) return put('forWhom', ordered(there.forWhom));
    if (there?.kind === 'branch')
      return there.arms.flatMap((arm): Command[] =>
        arm.condition ? [{ type: 'arm.set', arm: arm.id, condition: ordered(arm.condition) }] : [],
      );
  }
  if (/Who may enter, or the goal/.test(fix))
    return (['filter', 'goal'] as const).flatMap((field): Command[] =>
      draft[field] ? [{ type: 'set', field, value: ordered(draft[field]) }] : [],
    );
  if (/Choose whom|whom it mails|Choose a list|on the list/i.test(fix))
    return [{ type: 'set', field: 'list', value: world.list }];
  if (/Choose what starts it/.test(fix))
    return [
      {
        type: 'set',
        field: 'triggers',
        value: draft.triggers.map((t) =>
          t.kind === 'list'
            ? { ...t, list: world.list }
            : t.kind === 'event'
              ? { ...t, event: t.event || 'session.invited' }
              : t,
        ),
      },
    ];
  if (/Choose its offer/.test(fix)) return [{ type: 'email.set', step: step ?? '', field: 'offer', value: offer }];
  if (/Give it the page/.test(fix)) return [set(part ?? '', 'https://foldwell.example/answers')];
  if (f.check === 'fill-in-words') {
    const words = (text: string) => text.replace(/\[[^\]]*\]/g, 'Foldwell Bindery');
    const found = emailSteps(draft).find((s) => s.id === step);
    if (!found) return [];
    if (!block)
      return [
        {
          type: 'email.set',
          step: found.id,
          field: part as 'subject',
          value: words(String(found.email[part as 'subject'])),
        },
      ];
    const where = walkBlocks(found.email.blocks).find((p) => p.block.id === block)?.block;
    return Object.entries(where ?? {}).flatMap(([field, value]) => {
      const next = JSON.parse(JSON.stringify(value), (_key, v: unknown) =>
        typeof v === 'string' ? words(v) : v,
      ) as unknown;
      return field !== 'id' && field !== 'kind' && JSON.stringify(next) !== JSON.stringify(value)
        ? [set(field, next)]
        : [];
    });
  }
  throw new Error(
    `Whoever reads this does not know what to do: ${f.check}: ${f.message} ${f.fix} ${JSON.stringify(f.place)} ${around.lists.length}`,
  );
}

/** Somebody does what starts a sequence. */
async function begin(sequence: string, trigger: Trigger | undefined, to: string): Promise<void> {
  const { db } = world.connection;
  const event = (type: string) => world.event({ type, subject: to, time: now, data: KINDS[type] ?? {} }).expect(202);
  // Who has never been sent anything cannot go quiet.
  if (trigger?.kind === 'quiet')
    await world.live({ name: 'Before', steps: [emailStep('Before', { subject: 'A letter before' })] });
  await world.join(to);
  if (trigger?.kind === 'event') {
    await event(trigger.event);
    await event(trigger.event);
  }
  if (trigger?.kind === 'hand')
    await agent
      .post(`/api/sequences/${sequence}/people`)
      .send({ person: (await world.person(to))?.id })
      .expect(200);
  if (trigger?.kind === 'tag')
    await db.execute(sql`update people set tags = array[${trigger.tag}] where email = ${to}`);
  if (trigger?.kind === 'date')
    await db.execute(
      sql`update people set attributes = attributes || jsonb_build_object(${trigger.attribute}::text, to_char(to_timestamp(${(now + 40 * DAY) / 1000}), 'YYYY-MM-DD')) where email = ${to}`,
    );
}

describe('every pattern sends what it promises', () => {
  test.each(patterns.map((p) => [p.name, p.id] as const))('%s', async (name, pattern) => {
    world.list = await world.addList(world.ws, `Letters of ${name}`);
    const { id } = (await agent.post('/api/sequences').send({ name, pattern }).expect(200)).body as { id: string };
    const around = (await agent.get('/api/surroundings').expect(200)).body as Surroundings;
    const to = `${pattern}@readers.example`;
    await world.join(to);
    for (let rounds = 0; rounds < 60; rounds++) {
      const { findings } = (await agent.get(`/api/sequences/${id}/checks`).expect(200)).body as { findings: Finding[] };
      const [first] = findings.filter((f) => f.level === 'error');
      if (!first) break;
      await save(id, follow(first, (await read(id)).draft, around));
    }
    const { revision, draft } = await read(id);
    const published = await agent.post(`/api/sequences/${id}/publish`).send({ revision });
    expect([published.status, (published.body as { error?: unknown }).error]).toEqual([200, undefined]);
    now += HOUR;
    await world.ahead(now);
    const reader = `reader-of-${pattern}@readers.example`;
    await begin(id, draft.triggers[0], reader);
    now += 130 * DAY;
    await world.ahead(now);
    const { store } = world.mailbox;
    const mails = store.summaries
      .filter((s) => s.to === reader && s.subject !== 'A letter before')
      .map((s) => ({
        subject: s.subject,
        text: store.source(s).toString().replace(/=\r\n/g, '').replace(/=3D/g, '='),
      }));
    expect(mails.length, 'nothing arrived').toBeGreaterThan(0);
    for (const { subject, text } of mails) {
      expect(subject).not.toMatch(/[[\]{}]/);
      const body = text.slice(text.indexOf('\r\n\r\n')).replace(/<style[\s\S]*?<\/style>/g, '');
      expect(body).not.toMatch(/\{\{|\}\}|href="#"|\[your/);
    }
    const all = mails.map((m) => m.text).join('\n');
    // A cart arrives with what is in it, its pictures and prices, and its button leads back to that very cart.
    if (/checkout|cart/.test(pattern)) {
      for (const shown of ['Long-stitch kit', 'Bone folder', '24.00', 'kit.png']) expect(all).toContain(shown);
      const [link] = /\/c\/[\w.~-]+\/\d+/.exec(all) ?? [''];
      expect(link).not.toBe('');
      const targets = await Promise.all(
        [...new Set(all.match(/\/c\/[\w.~-]+\/[\d.]+/g) ?? [])].map(
          async (l) => (await request(world.app).get(l)).headers.location,
        ),
      );
      expect(targets).toContain(CART.return_to);
    }
    if (draft.steps.some((s) => s.kind === 'email' && s.email.offer))
      expect(
        (
          await rows(
            world.connection.db,
            sql`select 1 from offer_grants g join people p on p.id = g.person_id where p.email = ${reader}`,
          )
        ).length,
      ).toBe(1);
  });
});
