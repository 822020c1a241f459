import { and, eq, isNull, sql } from 'drizzle-orm';
import {
  ASKED_EVENT,
  DAY,
  FORM_EVENT,
  MINUTE,
  nameBeforeConfirming,
  type FormAnswers,
  type SignUpForm,
} from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Db, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { asks } from '../db/schema/index.ts';
import { transact } from '../db/transact.ts';
import { changeAttributes, fittingAttributes } from './attributes.ts';
import { noteConsent } from './consent.ts';
import { erase, hashOf } from './erasing.ts';
import { storeInternalEvent } from './internal-events.ts';
import { setMembership } from './memberships.ts';
import { personByEmail, personCalled } from './people.ts';
import { changeTags } from './tags.ts';

// Signing up by a form, in two steps: somebody asks, and the owner of the address confirms. Until then nothing of what was
// asked is known of anybody: whoever writes somebody else's address into a form changes nothing of theirs.

/** A confirmation email goes out once in so long to one address and form, whatever is sent. */
const ONCE_IN = 10 * MINUTE;
/** And so many to one address in a day, from all forms. */
const MOST_A_DAY = 5;

export interface OpenForm {
  ws: string;
  id: string;
  version: number;
  doc: SignUpForm;
}

export interface Asking {
  email: string;
  answers: FormAnswers;
  /** Network address it came from, or null. */
  where: string | null;
  /** Makes the address of the page on which an ask is confirmed. */
  addressOf: (ask: string) => string;
}

const sourceOfForm = (form: OpenForm, consent: string, version = form.version) =>
  ({ how: 'form', label: `${form.doc.name}, version ${version}`, words: consent }) as const;

const payloadOf = (form: OpenForm, answers: FormAnswers) => ({
  form: form.id,
  form_name: form.doc.name,
  ...answers.choices,
});

/**
 * Somebody asks to join. Whether a confirmation email goes out is nobody's to see: what is answered is the same for an
 * address that is known, that is not, and that has had its email already.
 */
export async function ask(
  tx: Tx,
  form: OpenForm,
  { email, answers, where, addressOf }: Asking,
  now: number,
): Promise<void> {
  const { ws } = form;
  const known = await personCalled(tx, ws, email);
  // Under the person's lock: two sendings at once are one after the other.
  const person = await personByEmail(tx, ws, email, now);
  const lately = await firstRow<{ same: number; day: number }>(
    tx,
    sql`select (count(*) filter (where form_id = ${form.id} and asked_at > ${now - ONCE_IN}))::int as same, count(*)::int as day
        from asks where workspace_id = ${ws} and person_id = ${person} and asked_at > ${now - DAY}`,
  );
  if ((lately?.same ?? 0) > 0 || (lately?.day ?? 0) >= MOST_A_DAY) return;
  const id = newId();
  await tx.insert(asks).values({
    workspaceId: ws,
    id,
    formId: form.id,
    version: form.version,
    personId: person,
    answers,
    consent: form.doc.consent,
    made: known === undefined,
    where,
    askedAt: now,
  });
  const wanted = [...new Set([...form.doc.lists, ...answers.lists])];
  await tx.execute(
    sql`insert into memberships (workspace_id, person_id, list_id, state, at) select ${ws}, ${person}, l, 'pending', ${now} from unnest(${sql.param(wanted)}::uuid[]) l on conflict do nothing`,
  );
  for (const list of wanted)
    await noteConsent(tx, ws, person, {
      list,
      what: 'asked',
      at: now,
      source: sourceOfForm(form, form.doc.consent),
      where,
    });
  const name = nameBeforeConfirming(answers.attributes['first_name']);
  await storeInternalEvent(
    tx,
    ws,
    person,
    ASKED_EVENT,
    { ...payloadOf(form, answers), confirm: addressOf(id), ...(name === null ? {} : { first_name: name }) },
    now,
  );
}

export interface Asked {
  person: string;
  confirmed: number | null;
  form: OpenForm;
  version: number;
  answers: FormAnswers;
  consent: string;
}

/** An ask with its form as it is now, or undefined where it has been forgotten. */
export async function askedBy(db: Db | Tx, ws: string, id: string): Promise<Asked | undefined> {
  const row = await firstRow<{
    person: string;
    confirmed: number | null;
    form: string;
    now: number;
    doc: SignUpForm;
    version: number;
    answers: FormAnswers;
    consent: string;
  }>(
    db,
    sql`select a.person_id as person, a.confirmed_at as confirmed, f.id as form, f.version as now, f.doc, a.version, a.answers, a.consent
        from asks a join forms f on f.workspace_id = a.workspace_id and f.id = a.form_id where a.workspace_id = ${ws} and a.id = ${id}`,
  );
  if (!row) return undefined;
  const { form, now, doc, ...asked } = row;
  return { ...asked, form: { ws, id: form, version: now, doc } };
}

/**
 * The owner of the address confirms: what they said becomes known, they are on the lists, and what begins with that begins
 * now. Confirming twice is confirming once. Answers false where there is nothing to confirm any more.
 */
export async function confirm(db: Db, ws: string, id: string, where: string | null, now: number): Promise<boolean> {
  return transact(db, async (tx) => {
    const asked = await askedBy(tx, ws, id);
    if (!asked) return false;
    const first = await tx
      .update(asks)
      .set({ confirmedAt: now })
      .where(and(eq(asks.workspaceId, ws), eq(asks.id, id), isNull(asks.confirmedAt)))
      .returning({ id: asks.id });
    if (first.length === 0) return true;
    const { person, form, version, answers, consent } = asked;
    await changeAttributes(tx, ws, person, await fittingAttributes(tx, ws, answers.attributes), now);
    await changeTags(tx, ws, person, { add: answers.tags, remove: [] }, now);
    const source = sourceOfForm(form, consent, version);
    const wanted = await rows<{ id: string }>(
      tx,
      sql`select id from lists where workspace_id = ${ws} and id = any (${sql.param([...form.doc.lists, ...answers.lists])}::uuid[])`,
    );
    for (const list of wanted)
      await setMembership(tx, ws, person, list.id, 'confirmed', now, {
        kind: 'owner',
        confirmedAt: now,
        source,
        where,
      });
    await storeInternalEvent(tx, ws, person, FORM_EVENT, payloadOf(form, answers), now);
    return true;
  });
}

/** Asks that are forgotten in one round. */
const BATCH = 200;

/**
 * Forgets who has not confirmed in the time that the form says: the ask, what they would have joined, and where nothing else is
 * known of them, the person. Answers how many.
 */
export async function forgetRound(db: Db, now: number): Promise<number> {
  return db.transaction(async (tx) => {
    const late = await rows<{ ws: string; person: string; made: boolean }>(
      tx,
      sql`with late as (
            select a.workspace_id, a.id from asks a left join forms f on f.workspace_id = a.workspace_id and f.id = a.form_id
            where a.confirmed_at is null and a.asked_at <= ${now} - coalesce((f.doc->>'forget')::int, 1) * ${DAY}::bigint order by a.asked_at, a.id limit ${BATCH} for update of a skip locked),
          gone as (
          delete from asks a using late where a.workspace_id = late.workspace_id and a.id = late.id returning a.workspace_id as ws, a.person_id as person, a.made, a.id)
          select ws, person, made from gone order by id`,
    );
    for (const { ws, person, made } of late) {
      const left = await firstRow<{ asks: number; known: boolean }>(
        tx,
        sql`select (select count(*)::int from asks where workspace_id = ${ws} and person_id = ${person}) as asks,
              exists (select 1 from memberships m where m.workspace_id = ${ws} and m.person_id = ${person} and m.state <> 'pending' and not (m.state = 'left' and exists (
                select 1 from left_lists l join people p on p.workspace_id = l.workspace_id and p.id = ${person} where l.workspace_id = ${ws} and l.list_id = m.list_id and l.hash = ${hashOf(ws, sql`p.email`)})))
              or exists (select 1 from events where workspace_id = ${ws} and person_id = ${person} and name <> ${ASKED_EVENT})
              or exists (select 1 from people where workspace_id = ${ws} and id = ${person} and (attributes <> '{}' or tags <> '{}' or (mail_status <> 'ok' and not exists (select 1 from suppressed s where s.workspace_id = ${ws} and s.held_by = ${person})))) as known`,
      );
      if ((left?.asks ?? 0) > 0) continue;
      await tx.execute(
        sql`delete from memberships where workspace_id = ${ws} and person_id = ${person} and state = 'pending'`,
      );
      if (made && !left?.known) await erase(tx, ws, person, now, true);
    }
    return late.length;
  });
}
