import express, { type Request, type RequestHandler } from 'express';
import { UserError } from '../app/errors.ts';

/** Bodies are read as bytes, up to 1 MB unpacked: what they mean is said by the headers, and read where it is needed. */
export const readBytes: RequestHandler = express.raw({ limit: '1mb', type: () => true });

const bytesOf = (req: Request): Buffer => (Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0));

/** The media type of a body, in small letters and without its parameters; '' where none is said. */
export const mediaType = (req: Request): string =>
  (req.get('content-type') ?? '').split(';')[0]?.trim().toLowerCase() ?? '';

const charsetOf = (req: Request): string =>
  (/;\s*charset\s*=\s*"?([^";\s]*)/i.exec(req.get('content-type') ?? '')?.[1] ?? 'utf-8').toLowerCase();

export const wrongType = (accepted: readonly string[]) =>
  new UserError(415, 'wrong-type', `Send ${accepted.join(', or ')} as Content-Type.`, 'Content-Type');

/** The body as text. Throws for another character set, and for bytes that are no UTF-8. */
export function textOf(req: Request): string {
  if (!['utf-8', 'utf8', 'us-ascii'].includes(charsetOf(req)))
    throw new UserError(415, 'wrong-type', 'That character set cannot be read: send UTF-8.', 'Content-Type');
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytesOf(req));
  } catch {
    throw new UserError(400, 'not-utf8', 'The body is not UTF-8.');
  }
}

/** The body as JSON. */
export function jsonOf(req: Request): unknown {
  try {
    return JSON.parse(textOf(req));
  } catch (error) {
    if (error instanceof UserError) throw error;
    throw new UserError(400, 'not-json', 'The body is not valid JSON. Check brackets, commas and quotes.');
  }
}

/** The body of a request that is JSON and nothing else. */
export function jsonBody(req: Request): unknown {
  if (!/^application\/(json|[\w.+-]+\+json)$/.test(mediaType(req))) throw wrongType(['application/json']);
  return jsonOf(req);
}

export const base64Of = (req: Request): string => bytesOf(req).toString('base64');
export const isEmpty = (req: Request): boolean => bytesOf(req).length === 0;
