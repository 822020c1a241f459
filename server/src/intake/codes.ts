import type { Request, Router } from 'express';
import { z } from 'zod';
import { redeemRequest, takeBackRequest } from '@ascenso/contracts';
import { currencyDecimals, toMajor, toMinor } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { Db } from '../db/connect.ts';
import { currencyOf } from '../db/library.ts';
import { transact } from '../db/transact.ts';
import { invalid } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { lookUp, redeem, takeBack } from '../people/redeeming.ts';

const asked = z.object({ email: redeemRequest.shape.email });

/** What a shop asks and tells about codes: is it good, for whom, until when; used; taken back. */
export function codeRoutes(router: Router, db: Db, wsOf: (req: Request) => string): void {
  router.get('/codes/:code', async (req, res) => {
    const { email } = parseOrThrow(asked, req.query);
    const { person: _, ...answer } = await lookUp(db, wsOf(req), req.params.code, email, await businessNow(db));
    res.json(answer);
  });

  router.post('/codes/:code/redeem', async (req, res) => {
    const body = parseOrThrow(redeemRequest, req.body);
    const ws = wsOf(req);
    const currency = body.currency ?? (await currencyOf(db, ws));
    const total = toMinor(body.total, currency);
    if (toMajor(total, currency) !== body.total) {
      const digits = currencyDecimals(currency);
      throw invalid(
        'total',
        `total: an amount in ${currency} has ${digits === 0 ? 'no' : digits} digits after the point.`,
      );
    }
    const use = { ...body, total, currency };
    const now = await businessNow(db);
    const done = await transact(db, (tx) => redeem(tx, ws, req.params.code, use, now));
    res.json({ ...done.answer, repeated: done.repeated });
  });

  router.post('/codes/:code/cancel', async (req, res) => {
    const { order } = parseOrThrow(takeBackRequest, req.body);
    const now = await businessNow(db);
    await transact(db, (tx) => takeBack(tx, wsOf(req), req.params.code, order, now));
    res.json({});
  });
}
