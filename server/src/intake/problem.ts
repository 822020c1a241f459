import { STATUS_CODES } from 'node:http';
import type { ErrorRequestHandler } from 'express';
import type { Problem } from '@ascenso/contracts';
import type { AppContext } from '../app/context.ts';
import { readError } from '../app/error-answers.ts';
import type { UserError } from '../app/errors.ts';

/** An error as problem details (RFC 9457). Without a `type` the title is that of the status; `code` tells them apart. */
export const problemOf = (error: Pick<UserError, 'status' | 'code' | 'message' | 'field'>): Problem => ({
  title: STATUS_CODES[error.status] ?? 'Error',
  status: error.status,
  detail: error.message,
  code: error.code,
  ...(error.field === undefined ? {} : { field: error.field }),
});

/** Every error of the intake. */
export const problems =
  (ctx: AppContext): ErrorRequestHandler =>
  (error: unknown, req, res, next) => {
    if (res.headersSent) return next(error);
    const { known, retryAfter } = readError(ctx, req, error);
    if (retryAfter) res.set('Retry-After', retryAfter);
    res
      .status(known.status)
      .type('application/problem+json')
      .send(JSON.stringify(problemOf(known)));
  };
