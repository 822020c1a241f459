import { Router } from 'express';
import { letterRequest, publishRequest } from '@ascenso/contracts';
import { blankEmail, blankSequence, mailBar, type Sequence } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import { route } from '../app/routes.ts';
import { loadFacts } from '../db/facts.ts';
import { hasPerson } from '../db/people.ts';
import { hasList } from '../db/lists.ts';
import { addDraft, getSequence } from '../db/sequences.ts';
import { visibleTemplate } from '../db/templates.ts';
import { transact } from '../db/transact.ts';
import { enterByHand } from '../people/entering-many.ts';
import { publish } from '../sequences/publishing.ts';

/** A letter: a sequence of one email that nothing starts but a hand, and that goes to one person once. */
const letterOf = (list: string | null, content: Sequence['steps']): Sequence => ({
  ...blankSequence('A letter', list),
  triggers: [{ kind: 'hand' }],
  cap: { ...blankSequence('', list).cap, exempt: true },
  steps: content,
});

/** What keeps mail from somebody, as a part of a sentence. */
const BARS: Record<NonNullable<ReturnType<typeof mailBar>>, string> = {
  bounced: 'their address does not work',
  complained: 'they called an email spam',
  unsubscribed: 'they unsubscribed',
  'left-list': 'they are not on its list',
};

/** One email written to one person, from their page: the same editor, checks, sending and story as any other. */
export function lettersRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  route(router, ctx, 'post', '/people/:id/letters', { body: letterRequest }, async ({ ws, me, params, body }) => {
    const person = params.id as string;
    if (!(await hasPerson(db, ws, person))) throw notFound('person');
    if (body.list && !(await hasList(db, ws, body.list))) throw invalid('list', 'There is no such list.');
    const step = blankEmail(newId, 'A letter');
    if (body.template) {
      const template = await visibleTemplate(db, ws, me.user.id, body.template);
      if (!template) throw invalid('template', 'There is no such template.');
      step.email = { ...template.email, template: template.id };
    }
    const sequence = await addDraft(db, ws, letterOf(body.list, [step]), await businessNow(db), { person });
    return { sequence, step: step.id };
  });

  // Published as any version, with its checks; then the one reader enters, once.
  route(router, ctx, 'post', '/letters/:id/send', { body: publishRequest }, async ({ ws, me, params, body }) => {
    const id = params.id as string;
    const { person, draft } = await getSequence(db, ws, id);
    if (!person) throw notFound('letter');
    if (person.sent) throw new UserError(409, 'sent', 'It has been sent already. Write another one from their page.');
    const wanted = { workspace_id: ws, visit_id: id, person_id: person.id, lists: true };
    const facts = (await loadFacts(db, [wanted])).get(id);
    const bar = facts && mailBar(draft, facts);
    if (bar) throw new UserError(409, 'no-mail', `They get no mail of this kind: ${BARS[bar]}.`);
    const now = await businessNow(db);
    // Both or neither: a letter that is published and has no reader could be sent by nobody.
    await transact(db, async (tx) => {
      await publish(tx, ws, id, body.revision, me.user.id, now);
      if ((await enterByHand(tx, ws, id, [person.id], now)).size === 0)
        throw new UserError(409, 'not-sent', 'It did not go: somebody sent it at the same moment.');
    });
    return {};
  });
  return router;
}
