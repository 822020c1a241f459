import { randomBytes } from 'node:crypto';
import type { ErrorRequestHandler, Request } from 'express';
import { MulterError } from 'multer';
import { CommandError } from '@ascenso/core';
import type { AppContext } from './context.ts';
import { UserError } from './errors.ts';
import { told } from './log.ts';
import { INCOMPLETE, sendPage } from './page.ts';

// The one place where errors become answers. People's data never reaches the log.

const SENTENCES: Record<string, [string, string]> = {
  'entity.too.large': ['too-large', 'The body is too large: send at most 1 MB, in smaller batches.'],
  'entity.parse.failed': ['not-json', 'The body is not valid JSON. Check brackets, commas and quotes.'],
  'charset.unsupported': ['wrong-type', 'That character set cannot be read: send UTF-8.'],
  'encoding.unsupported': ['wrong-type', 'That content encoding cannot be read: send the body as it is, or as gzip.'],
  'parameters.too.many': ['too-large', 'There are too many fields in the body.'],
  'request.aborted': ['cut-off', 'The request was cut off. Send it again.'],
};

/** What a body, an address or a file did wrong: named by the libraries that read them. */
function ofTheRequest(error: Error & { type?: string; status?: number }): UserError | null {
  if (error instanceof MulterError)
    return error.code === 'LIMIT_FILE_SIZE'
      ? new UserError(413, 'too-large', 'That file is over 10 MB. Make it smaller first.', 'file')
      : new UserError(400, 'invalid', 'Send one file, and nothing beside it.', 'file');
  if (/^(Multipart: |Unexpected end of form|Malformed part header)/.test(error.message))
    return new UserError(400, 'invalid', 'The upload is broken off or not whole. Send it again.', 'file');
  const { status } = error;
  if (status === undefined || status < 400 || status > 499) return null;
  const [code, sentence] = SENTENCES[error.type ?? ''] ?? [
    'invalid',
    'That request cannot be read. Check it and send it again.',
  ];
  return new UserError(status, code, sentence);
}

/** What is there once only, by the index that keeps it so: also two at once are told apart. */
const TAKEN: Record<string, [string, string]> = {
  lists_name: ['name', 'There is already a list with this name.'],
  segments_name: ['name', 'There is already a segment with this name.'],
  offers_name: ['name', 'There is already an offer with this name.'],
  labels_name: ['name', 'There is already a label with this name.'],
};

/** What a value did wrong that only the database found: its class 22 are data that no column can hold. */
function ofTheData(error: Error): UserError | null {
  const { code, constraint } = (error.cause ?? error) as { code?: string; constraint?: string };
  const taken = code === '23505' ? TAKEN[constraint ?? ''] : undefined;
  if (taken) return new UserError(422, 'invalid', taken[1], taken[0]);
  // Two at once wrote the same thing, and the other one was first.
  if (code === '23505')
    return new UserError(409, 'taken', 'Somebody has just made the same. Look at it, then try again.');
  // PostgreSQL keeps every character but this one, in text (22021) and in JSON (22P05).
  if (code === '22021' || code === '22P05')
    return new UserError(
      422,
      'invalid',
      'A text holds the NUL character (\\u0000) or half of a character, which cannot be kept. Take it out.',
    );
  if (code?.startsWith('22'))
    return new UserError(422, 'invalid', 'A value cannot be kept: it is too large, or not of its kind.');
  return null;
}

function asUserError(error: unknown): UserError | null {
  if (error instanceof UserError) return error;
  if (error instanceof CommandError) return new UserError(422, 'invalid', error.message, error.field);
  if (error instanceof URIError)
    return new UserError(400, 'invalid', 'That address is not complete: a % stands alone in it.');
  return error instanceof Error ? (ofTheRequest(error) ?? ofTheData(error)) : null;
}

/** SQLSTATEs of a database that goes away or comes back (class 08, the three of a shutdown), or has no room for one more (class 53). */
const AWAY = /^(08...|53...|57P0[123]|ECONNREFUSED|ECONNRESET|EPIPE|ENOENT|ETIMEDOUT)$/;
const AWAY_WORDS = /^(Connection terminated|timeout exceeded when trying to connect|timeout expired)/;

/** Whether an error says that the database cannot be reached just now. */
function isAway(error: unknown): boolean {
  const cause = (error as Error | undefined)?.cause ?? error;
  if (!(cause instanceof Error)) return false;
  const { code } = cause as { code?: string };
  return AWAY.test(code ?? '') || AWAY_WORDS.test(cause.message);
}

/** Notes an error of ours under an id, which the answer shows: whoever looks for it finds it in the log. */
function note(ctx: AppContext, req: Request, error: unknown): string {
  const id = randomBytes(4).toString('hex');
  const route = (req.route as { path?: string } | undefined)?.path ?? 'none';
  ctx.log.error({ id, method: req.method, route, ...told(error) }, 'request failed');
  return id;
}

/**
 * What an error is to whoever asked: theirs as it is, ours noted in the log under an id that its sentence shows. A database
 * that is away is told with when to try again, seconds.
 */
export function readError(
  ctx: AppContext,
  req: Request,
  error: unknown,
): { known: UserError; id: string | null; retryAfter: string | null } {
  const theirs = asUserError(error);
  if (theirs) return { known: theirs, id: null, retryAfter: null };
  const id = note(ctx, req, error);
  return isAway(error)
    ? {
        known: new UserError(503, 'away', `The database cannot be reached just now. Try again in a minute (${id}).`),
        id,
        retryAfter: '30',
      }
    : {
        known: new UserError(
          500,
          'internal',
          `Something went wrong on our side. Try again. If it stays so, whoever runs this finds it in the log as ${id}.`,
        ),
        id,
        retryAfter: null,
      };
}

/** Errors of the web application's own doors, as JSON. */
export const jsonErrors =
  (ctx: AppContext): ErrorRequestHandler =>
  (error: unknown, req, res, next) => {
    if (res.headersSent) return next(error);
    const { known, retryAfter } = readError(ctx, req, error);
    if (retryAfter) res.set('Retry-After', retryAfter);
    const { code, message, field } = known;
    res.status(known.status).json({ error: { code, message, field } });
  };

/** Errors of the doors that readers come to: a page with a sentence. */
export const pageErrors =
  (ctx: AppContext): ErrorRequestHandler =>
  (error: unknown, req, res, next) => {
    if (res.headersSent) return next(error);
    const { known, id, retryAfter } = readError(ctx, req, error);
    if (id === null) return sendPage(res, known.status, ...INCOMPLETE);
    if (retryAfter) {
      res.set('Retry-After', retryAfter);
      const words = '<p>We cannot look this up just now. Nothing is lost: open the link again.</p>';
      return sendPage(res, 503, 'Try again in a minute', words);
    }
    sendPage(
      res,
      500,
      'Something went wrong on our side',
      `<p>Try again in a few minutes. If it stays so, tell us this number: ${id}</p>`,
    );
  };
