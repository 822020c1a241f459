import { Router } from 'express';
import {
  formRequest,
  formStatusRequest,
  newFormRequest,
  subjectRequest,
  type FormAnswer,
  type FormRow,
} from '@ascenso/contracts';
import { blankForm, confirmationOf } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { attributeTypes } from '../db/attributes.ts';
import { hasFile } from '../db/files.ts';
import { addForm, changeForm, declareFormEvents, formOf, listForms, setFormStatus } from '../db/forms.ts';
import { hasList } from '../db/lists.ts';
import { addDraft, getSequence } from '../db/sequences.ts';
import { loadAround } from '../db/surroundings.ts';
import { transact } from '../db/transact.ts';
import { snippetOf } from '../app/form-html.ts';
import { saveDraft } from '../sequences/drafts.ts';
import { publish } from '../sequences/publishing.ts';

/** Sign-up forms: made with their confirmation email, written, opened and closed. */
export function formsRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;
  const { base } = ctx.sending;

  const found = async (ws: string, id: string): Promise<FormRow> => {
    const form = await formOf(db, ws, id);
    if (!form) throw notFound('form');
    return form;
  };

  route(router, ctx, 'get', '/forms', {}, async ({ ws }) => ({ forms: await listForms(db, ws) }));

  route(router, ctx, 'get', '/forms/:id', {}, async ({ ws, params }): Promise<FormAnswer> => {
    const form = await found(ws, params.id as string);
    const types = await attributeTypes(db, ws);
    return {
      ...form,
      address: `${base}/form/${form.id}`,
      snippet: snippetOf(form.form, base, form.id, (key) => types.get(key)),
    };
  });

  route(router, ctx, 'post', '/forms', { body: newFormRequest }, async ({ ws, body }) => {
    const now = await businessNow(db);
    const id = newId();
    await transact(db, async (tx) => {
      const { style, lists, attributes } = await loadAround(tx, ws, ['style', 'lists', 'attributes']);
      const first = lists.length === 1 ? (lists[0]?.id ?? '') : '';
      const hasName = attributes.some((a) => a.key === 'first_name' && a.type === 'text');
      const doc = blankForm(body.name, first, style.language, hasName);
      const sequence = await addDraft(
        tx,
        ws,
        confirmationOf({ id, name: body.name, language: style.language }, newId),
        now,
      );
      await addForm(tx, ws, { id, doc, sequence }, now);
      await declareFormEvents(tx, ws, id);
    });
    return { id };
  });

  route(router, ctx, 'put', '/forms/:id', { body: formRequest }, async ({ ws, params, body }) => {
    const id = params.id as string;
    await found(ws, id);
    for (const [i, list] of body.lists.entries())
      if (!(await hasList(db, ws, list))) throw invalid(`lists.${i}`, 'There is no such list.');
    const types = await attributeTypes(db, ws);
    for (const [i, f] of body.fields.entries()) {
      const keys =
        f.kind === 'attribute' ? [f.key] : f.options.flatMap((o) => (o.sets.kind === 'attribute' ? [o.sets.key] : []));
      const gone = keys.find((k) => !types.has(k));
      const sets = f.kind === 'choice' ? f.options.map((o) => o.sets) : [];
      for (const s of sets) {
        const allowed = s.kind === 'attribute' ? (types.get(s.key)?.options ?? []) : [];
        if (s.kind === 'attribute' && allowed.length > 0 && !allowed.includes(s.value))
          throw invalid(`fields.${i}`, `“${s.key}” is one of ${allowed.join(', ')}: “${s.value}” is none of them.`);
      }
      if (gone !== undefined) throw invalid(`fields.${i}`, `There is no attribute “${gone}”.`);
      const own = f.kind === 'choice' ? f.options.flatMap((o) => (o.sets.kind === 'list' ? [o.sets.list] : [])) : [];
      for (const list of own)
        if (!(await hasList(db, ws, list))) throw invalid(`fields.${i}`, 'There is no such list.');
    }
    if (body.after.kind === 'words' && body.after.file && !(await hasFile(db, ws, body.after.file)))
      throw invalid('after', 'There is no such file.');
    await transact(db, async (tx) => {
      await changeForm(tx, ws, id, body);
      await declareFormEvents(tx, ws, id);
    });
    return {};
  });

  // An edit of the draft as any other: what is live changes when its sequence is published.
  route(router, ctx, 'put', '/forms/:id/subject', { body: subjectRequest }, async ({ ws, me, params, body }) => {
    const { sequence, step, revision } = await found(ws, params.id as string);
    if (step === null) throw new UserError(409, 'state', 'Its sequence has no email any more: put one in first.');
    const command = { type: 'email.set' as const, step, field: 'subject' as const, value: body.subject };
    const now = await businessNow(db);
    await transact(db, (tx) =>
      saveDraft(tx, ws, sequence, me.user.id, { base: revision, edits: [{ commands: [command], role: 'edit' }] }, now),
    );
    return {};
  });

  // Opening publishes the confirmation email where it is not live yet: the checks say what is missing.
  route(router, ctx, 'post', '/forms/:id/status', { body: formStatusRequest }, async ({ ws, me, params, body }) => {
    const id = params.id as string;
    const form = await found(ws, id);
    await transact(db, async (tx) => {
      if (body.status === 'open') {
        const checked = formRequest.safeParse(form.form);
        if (!checked.success)
          throw new UserError(
            422,
            'invalid',
            checked.error.issues[0]?.message ?? '',
            String(checked.error.issues[0]?.path[0] ?? ''),
          );
        if (form.sequenceStatus === 'draft') {
          const { revision } = await getSequence(tx, ws, form.sequence);
          await publish(tx, ws, form.sequence, revision, me.user.id, await businessNow(tx));
        } else if (form.sequenceStatus !== 'live')
          throw new UserError(
            409,
            'state',
            'Its confirmation email does not go out: set its sequence live again first.',
          );
      }
      await setFormStatus(tx, ws, id, body.status);
    });
    return {};
  });
  return router;
}
