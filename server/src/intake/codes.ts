import type { Request, Router } from 'express';
import { z } from 'zod';
import { codePath, redeemRequest, takeBackRequest } from '@ascenso/contracts';
import { currencyDecimals, toMajor, toMinor } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { Db } from '../db/connect.ts';
import { currencyOf } from '../db/library.ts';
import { transact } from '../db/transact.ts';
import { invalid } from '../app/errors.ts';
import { parseOrThrow } from '../app/parse.ts';
import { lookUp, redeem, takeBack, type Redemption } from '../people/redeeming.ts';
import { jsonBody } from './body.ts';
import { door } from './doors.ts';

const asked = z.object({ email: redeemRequest.shape.email });

/** The body of a use, its total in minor units. */
async function useIn(db: Db, ws: string, req: Request): Promise<Redemption> {
  const body = parseOrThrow(redeemRequest, jsonBody(req));
  const currency = body.currency ?? (await currencyOf(db, ws));
  const total = toMinor(body.total, currency);
  if (toMajor(total, currency) !== body.total) {
    const digits = currencyDecimals(currency);
    throw invalid(
      'total',
      `total: an amount in ${currency} has ${digits === 0 ? 'no' : digits} digits after the point.`,
    );
  }
  return { ...body, total, currency };
}

/** What a shop asks and tells about codes: is it good, for whom, until when; used; taken back. */
export function codeDoors(router: Router, db: Db, wsOf: (req: Request) => string): void {
  const codeOf = (req: Request) => parseOrThrow(codePath, req.params).code;

  door(router, '/codes/:code', {
    get: async (req, res) => {
      const { email } = parseOrThrow(asked, req.query);
      const { person: _, ...answer } = await lookUp(db, wsOf(req), codeOf(req), email, await businessNow(db));
      res.json(answer);
    },
  });

  door(router, '/codes/:code/redeem', {
    post: async (req, res) => {
      const ws = wsOf(req);
      const use = await useIn(db, ws, req);
      const now = await businessNow(db);
      const done = await transact(db, (tx) => redeem(tx, ws, codeOf(req), use, now));
      res.json({ ...done.answer, repeated: done.repeated });
    },
  });

  door(router, '/codes/:code/cancel', {
    post: async (req, res) => {
      const { order } = parseOrThrow(takeBackRequest, jsonBody(req));
      const now = await businessNow(db);
      await transact(db, (tx) => takeBack(tx, wsOf(req), codeOf(req), order, now));
      res.json({});
    },
  });
}
