import { pipeline } from 'node:stream/promises';
import { isDeepStrictEqual } from 'node:util';
import { stringify } from 'csv-stringify';
import { Router } from 'express';
import { checkContext, offerRequest, timerLinkRequest, timerRequest, type CodesAnswer } from '@ascenso/contracts';
import { findStep, hexOf, runChecks, sharedKeys, wholeFace, type Offer } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { invalid, notFound, UserError } from '../app/errors.ts';
import { route } from '../app/routes.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { pictureOf } from '../db/files.ts';
import {
  addOffer,
  changeOffer,
  deleteOffer,
  isGiven,
  issuedAfter,
  lockCodes,
  offerDoc,
  otherOffers,
  ownerOfCode,
  runningVersions,
} from '../db/offer-store.ts';
import { offersInFull, usesOfOffers } from '../db/offers.ts';
import { loadAround, loadSurroundings } from '../db/surroundings.ts';
import { keptForecast } from './forecasts.ts';
import { CSV } from '../jobs/csv.ts';
import { importCodes } from '../jobs/import-codes.ts';
import { signText } from '../mail/token.ts';
import { wakeAwaiting } from '../people/visits.ts';
import { sendGif } from '../public/timers.ts';
import { timerGif } from '../timer/index.ts';

/** Rolls an import back and carries what was wrong with it out of the transaction. */
class Refused extends Error {
  readonly answer: CodesAnswer;
  constructor(answer: CodesAnswer) {
    super('refused');
    this.answer = answer;
  }
}

const EXPORT_CHUNK = 5000;

/** Issued codes in order, read in chunks: a million of them never stand in memory at once. */
async function* issuedCodes(db: Executor, ws: string, offer: string): AsyncGenerator<(string | null)[]> {
  const iso = (at: number | null) => (at === null ? '' : new Date(at).toISOString());
  yield ['code', 'email', 'issued at', 'closes at', 'used at'];
  for (let after = '00000000-0000-0000-0000-000000000000'; ;) {
    const some = await issuedAfter(db, ws, offer, after, EXPORT_CHUNK);
    if (some.length === 0) return;
    for (const r of some) yield [r.code, r.email, iso(r.issued_at), iso(r.closes_at), iso(r.used_at)];
    after = some.at(-1)?.person_id ?? after;
  }
}

/** Sentences of what an offer would no longer have, although emails that are going out show it. */
async function missedBy(db: Executor, ws: string, id: string, offer: Offer): Promise<string[]> {
  const around = await loadSurroundings(db, ws);
  const after = { ...around, offers: around.offers.map((o) => (o.id === id ? { ...o, name: offer.name, offer } : o)) };
  const running = await runningVersions(db, ws);
  const told = running.flatMap(({ sequence, name, doc }) =>
    runChecks(doc, checkContext(sequence, doc, after, {})).flatMap(({ check, place, message }) => {
      const step = place.step === null ? undefined : findStep(doc, place.step)?.step;
      if (check !== 'without-offer' || step?.kind !== 'email' || step.email.offer !== id) return [];
      return [`“${step.name}” of “${name}” is going out: ${message}`];
    }),
  );
  return [...new Set(told)];
}

/** Offers: what is given, their codes, their timers. */
export function offersRouter(ctx: AppContext): Router {
  const router = Router();
  const { db } = ctx.connection;

  const mustExist = async (ws: string, id: string): Promise<Offer> => {
    const offer = await offerDoc(db, ws, id);
    if (!offer) throw notFound('offer');
    return offer;
  };

  /** A code that everybody gets must be no other offer's: the shop could not tell them apart. */
  const checkCode = async (tx: Tx, ws: string, offer: Offer, self: string | null) => {
    await lockCodes(tx, ws);
    const mine = sharedKeys(offer);
    const others = await otherOffers(tx, ws, self);
    const taken =
      others.find((o) => sharedKeys(o).some((k) => mine.includes(k)))?.name ?? (await ownerOfCode(tx, ws, mine));
    if (taken) throw invalid('codes.code', `“${taken}” gives this code already: choose another.`);
  };

  route(router, ctx, 'get', '/offers', {}, async (call) => {
    const { ws, kept } = call;
    const now = await businessNow(db);
    const { offers } = await loadAround(db, ws, ['offers']);
    const ahead = await keptForecast(ctx, call);
    return { offers: await offersInFull(db, ws, offers, ahead, now, kept), now };
  });

  route(router, ctx, 'post', '/offers', { body: offerRequest }, async ({ ws, body }) => {
    const now = await businessNow(db);
    return db.transaction(async (tx) => {
      await checkCode(tx, ws, body, null);
      return { id: await addOffer(tx, ws, body, now) };
    });
  });

  // Whoever has been given the offer keeps their code and their deadline: those are set once.
  route(router, ctx, 'put', '/offers/:id', { body: offerRequest }, async ({ ws, params, body }) => {
    const id = params.id as string;
    const before = await mustExist(ws, id);
    const missed = await missedBy(db, ws, id, body);
    if (missed.length > 0)
      throw new UserError(409, 'in-use', `${missed.join(' ')} Take it out there and publish that first.`);
    const another = before.codes.kind === 'made' && !isDeepStrictEqual(before.codes, body.codes);
    await db.transaction(async (tx) => {
      await checkCode(tx, ws, body, id);
      await changeOffer(tx, ws, id, body, another);
    });
    return {};
  });

  route(router, ctx, 'delete', '/offers/:id', {}, async ({ ws, params }) => {
    const id = params.id as string;
    await mustExist(ws, id);
    const uses = (await usesOfOffers(db, ws)).get(id) ?? [];
    if (uses.length > 0)
      throw new UserError(
        409,
        'in-use',
        `It is made in ${uses.map((u) => `“${u.name}: ${u.email}”`).join(', ')}: take it out there first.`,
      );
    if (await isGiven(db, ws, id))
      throw new UserError(
        409,
        'in-use',
        'People have been given it: their codes would stop working. It stays, for them.',
      );
    await db.transaction((tx) => deleteOffer(tx, ws, id));
    return {};
  });

  // The file is the body, so that a million codes are read as they come.
  route(router, ctx, 'post', '/offers/:id/codes', {}, async ({ ws, params, query, req }): Promise<CodesAnswer> => {
    const id = params.id as string;
    const offer = await mustExist(ws, id);
    if (offer.codes.kind !== 'imported')
      throw invalid('codes', 'This offer does not take codes from a file: change where its codes come from first.');
    if (!req.is('text/csv')) throw new UserError(415, 'wrong-type', 'Send the file as text/csv.', 'Content-Type');
    const skip = query.skip === '1';
    try {
      const answer = await db.transaction(async (tx) => {
        const made = await importCodes(tx, ws, id, req, skip);
        if (made.refusedCount > 0 && !skip) throw new Refused({ ...made, added: 0 });
        return made;
      });
      // Emails that wait for codes look for them now.
      await wakeAwaiting(db, ws, id, await businessNow(db));
      return answer;
    } catch (error) {
      if (error instanceof Refused) return error.answer;
      throw error;
    }
  });

  route(router, ctx, 'get', '/offers/:id/codes.csv', { role: 'editor' }, async ({ ws, params, res }) => {
    const id = params.id as string;
    const offer = await mustExist(ws, id);
    res.type('text/csv').attachment(`${offer.name.replace(/[^\p{L}\p{N} -]/gu, '')} codes.csv`);
    await pipeline(issuedCodes(db, ws, id), stringify(CSV), res);
  });

  // Looking changes nothing: a reviewer sees timers too.
  const drawn = { body: timerRequest, role: 'reviewer', perMinute: 120 } as const;
  route(router, ctx, 'post', '/timers/preview', drawn, async ({ ws, body, res }) => {
    const { style } = await loadAround(db, ws, ['style']);
    const picture = (file: string) => pictureOf(db, ws, file);
    const face = wholeFace(body.face, (c) => hexOf(c, style));
    sendGif(res, await timerGif({ face, language: body.language, left: body.left * 1000, after: body.after, picture }));
  });

  route(router, ctx, 'post', '/timers/link', { body: timerLinkRequest }, async ({ ws, body }) => {
    const { style } = await loadAround(db, ws, ['style']);
    const face = wholeFace(body.face, (c) => hexOf(c, style));
    return {
      address: `${ctx.sending.base}/t/${signText(ctx.sending.secret, JSON.stringify({ ws, ...body, face }))}.gif`,
    };
  });
  return router;
}
