import { and, asc, eq, isNull, or, sql } from 'drizzle-orm';
import type { templateRequest, TemplateRow } from '@ascenso/contracts';
import { emailSteps, type Sequence } from '@ascenso/core';
import type { z } from 'zod';
import { newId } from '../app/ids.ts';
import { intoBin } from './bin.ts';
import type { Executor } from './connect.ts';
import { sequences, templates } from './schema/index.ts';

type Body = z.infer<typeof templateRequest>;
export type Template = Pick<TemplateRow, 'id' | 'name' | 'email'>;

/** Of those that a user may see: everyone's, and their own. */
const visible = (ws: string, user: string) =>
  and(eq(templates.workspaceId, ws), or(isNull(templates.ownerId), eq(templates.ownerId, user)));

const columns = ({ name, about, email, private: own }: Body, user: string, updatedAt: number) => ({
  name,
  about,
  email,
  ownerId: own ? user : null,
  updatedAt,
});

/** Templates that a user may see, each with the emails that were begun from it. */
export async function listTemplates(db: Executor, ws: string, user: string): Promise<TemplateRow[]> {
  const found = await db.select().from(templates).where(visible(ws, user)).orderBy(asc(templates.name));
  const drafts = await db
    .select({ id: sequences.id, name: sequences.name, draft: sequences.draft })
    .from(sequences)
    .where(
      and(
        eq(sequences.workspaceId, ws),
        sql`${sequences.status} <> 'archived' and ${sequences.draft}::text like '%"template"%'`,
      ),
    )
    .orderBy(asc(sequences.name));
  const usedIn = (id: string): TemplateRow['usedIn'] =>
    drafts.flatMap((d) =>
      emailSteps(d.draft)
        .filter((s) => s.email.template === id)
        .map((s) => ({ sequence: d.id, step: s.id, name: `${d.name}: ${s.name}` })),
    );
  return found.map((t) => ({
    id: t.id,
    name: t.name,
    about: t.about,
    email: t.email,
    private: t.ownerId !== null,
    mine: t.ownerId === user,
    updatedAt: t.updatedAt,
    usedIn: usedIn(t.id),
  }));
}

export async function addTemplate(db: Executor, ws: string, user: string, body: Body, now: number): Promise<string> {
  const id = newId();
  await db.insert(templates).values({ workspaceId: ws, id, ...columns(body, user, now) });
  return id;
}

/** Answers whether there is such a template that the user may change. */
export async function changeTemplate(
  db: Executor,
  ws: string,
  user: string,
  id: string,
  body: Body,
  now: number,
): Promise<boolean> {
  const changed = await db
    .update(templates)
    .set(columns(body, user, now))
    .where(and(visible(ws, user), eq(templates.id, id)))
    .returning({ id: templates.id });
  return changed.length > 0;
}

/** A template that a user may see. */
export async function visibleTemplate(
  db: Executor,
  ws: string,
  user: string,
  id: string,
): Promise<Template | undefined> {
  const [found] = await db
    .select({ id: templates.id, name: templates.name, email: templates.email })
    .from(templates)
    .where(and(visible(ws, user), sql`${templates.id}::text = ${id}`));
  return found;
}

/** Makes a template say what the draft that it is written in says. */
export async function keepAsTemplate(
  db: Executor,
  ws: string,
  template: string,
  draft: Sequence,
  now: number,
): Promise<void> {
  const [step] = emailSteps(draft);
  if (!step) return;
  await db
    .update(templates)
    .set({ name: draft.name, email: step.email, updatedAt: now })
    .where(and(eq(templates.workspaceId, ws), eq(templates.id, template)));
}

/** Deletes a template that the user may see. Answers the id under which it can be brought back, undefined where there is none. */
export async function deleteTemplate(db: Executor, ws: string, user: string, id: string): Promise<string | undefined> {
  const found = await db
    .select({ id: templates.id })
    .from(templates)
    .where(and(visible(ws, user), eq(templates.id, id)));
  return found.length > 0 ? intoBin(db, ws, 'template', id) : undefined;
}
