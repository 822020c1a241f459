import { and, eq, sql } from 'drizzle-orm';
import type { FormRow } from '@ascenso/contracts';
import { ASKED_EVENT, FORM_EVENT, type HouseStyle, type SignUpForm } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';
import { forms } from './schema/index.ts';

const SELECT = sql`select f.id, f.doc as form, f.version, f.status, f.sequence_id as sequence, s.status as "sequenceStatus",
    (select step->>'id' from jsonb_path_query(s.draft, '$.steps[*] ? (@.kind == "email")') step limit 1) as step,
    coalesce((select step->'email'->>'subject' from jsonb_path_query(s.draft, '$.steps[*] ? (@.kind == "email")') step limit 1), '') as subject, s.revision,
    (select count(*)::int from asks a where a.workspace_id = f.workspace_id and a.form_id = f.id) as asked,
    (select count(*)::int from asks a where a.workspace_id = f.workspace_id and a.form_id = f.id and a.confirmed_at is not null) as confirmed
  from forms f join sequences s on s.workspace_id = f.workspace_id and s.id = f.sequence_id`;

export const listForms = (db: Executor, ws: string): Promise<FormRow[]> =>
  rows(db, sql`${SELECT} where f.workspace_id = ${ws} order by f.created_at desc`);

export const formOf = (db: Executor, ws: string, id: string): Promise<FormRow | undefined> =>
  firstRow(db, sql`${SELECT} where f.workspace_id = ${ws} and f.id = ${id}`);

/** A form as its readers meet it: whose it is, and the house it stands in. */
export const hostedForm = (
  db: Executor,
  id: string,
): Promise<
  { ws: string; id: string; doc: SignUpForm; version: number; status: string; style: HouseStyle } | undefined
> =>
  firstRow(
    db,
    sql`select f.workspace_id as ws, f.id, f.doc, f.version, f.status, w.style from forms f join workspaces w on w.id = f.workspace_id where f.id::text = ${id}`,
  );

export async function addForm(
  db: Executor,
  ws: string,
  form: { id: string; doc: SignUpForm; sequence: string },
  createdAt: number,
): Promise<void> {
  await db.insert(forms).values({
    workspaceId: ws,
    id: form.id,
    doc: form.doc,
    version: 1,
    status: 'draft',
    sequenceId: form.sequence,
    createdAt,
  });
}

/** Changes a form; another wording is another version. False where there is none. */
export async function changeForm(db: Executor, ws: string, id: string, doc: SignUpForm): Promise<boolean> {
  const changed = await rows(
    db,
    sql`update forms set doc = ${JSON.stringify(doc)}::jsonb, version = version + case when doc = ${JSON.stringify(doc)}::jsonb then 0 else 1 end
        where workspace_id = ${ws} and id = ${id} returning 1`,
  );
  return changed.length > 0;
}

export async function setFormStatus(db: Executor, ws: string, id: string, status: 'open' | 'closed'): Promise<void> {
  await db
    .update(forms)
    .set({ status })
    .where(and(eq(forms.workspaceId, ws), eq(forms.id, id)));
}

/** Declares the events of forms, with a field for each choice that any of them offers. */
export async function declareFormEvents(db: Executor, ws: string, example: string): Promise<void> {
  const docs = await rows<{ doc: SignUpForm }>(db, sql`select doc from forms where workspace_id = ${ws}`);
  const choices = docs.flatMap(({ doc }) => doc.fields.flatMap((f) => (f.kind === 'choice' ? [f] : [])));
  const names = [...new Set(choices.map((c) => c.name))];
  const field = (name: string) => ({ name, type: 'text' });
  const sample = {
    form: example,
    form_name: docs[0]?.doc.name ?? '',
    ...Object.fromEntries(names.map((n) => [n, choices.find((c) => c.name === n)?.options[0]?.label ?? ''])),
  };
  for (const [name, label, more, values] of [
    [FORM_EVENT, 'Confirmed a form', [], {}],
    [
      ASKED_EVENT,
      'Sent a form, not confirmed yet',
      ['first_name', 'confirm'],
      { first_name: 'Marta', confirm: 'https://foldwell.example/confirm' },
    ],
  ] as const) {
    const [known] = await rows<{ fields: { name: string; type: string }[] }>(
      db,
      sql`select fields from event_kinds where workspace_id = ${ws} and name = ${name}`,
    );
    const own = ['form', 'form_name', ...more, ...names].map(field);
    const fields = [...own, ...(known?.fields ?? []).filter((f) => !own.some((o) => o.name === f.name))];
    await db.execute(sql`
      insert into event_kinds (workspace_id, name, label, fields, sample, learned)
      values (${ws}, ${name}, ${label}, ${JSON.stringify(fields)}::jsonb, ${JSON.stringify({ ...sample, ...values })}::jsonb, false)
      on conflict (workspace_id, name) do update set fields = excluded.fields, sample = event_kinds.sample || excluded.sample, learned = false`);
  }
}
