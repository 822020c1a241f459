import { randomBytes } from 'node:crypto';
import { hash, verify } from '@node-rs/argon2';
import { parseCookie, stringifySetCookie } from 'cookie';
import { sql } from 'drizzle-orm';
import type { Request, Response } from 'express';
import type { Me } from '@ascenso/contracts';
import type { Executor } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { UserError } from './errors.ts';
import { sha256 } from './hash.ts';

const COOKIE = 'ascenso_session';
const LIFE_MS = 30 * 86_400_000;

/** argon2id with the library's parameters, which are those of OWASP's password storage advice. */
export const hashPassword = (password: string): Promise<string> => hash(password);

const setCookie = (res: Response, value: string, maxAge: number) =>
  res.setHeader(
    'Set-Cookie',
    stringifySetCookie({ name: COOKIE, value, httpOnly: true, sameSite: 'strict', path: '/', maxAge }),
  );

// Verified against when there is no such user, so that the answer takes as long.
let decoy: Promise<string> | undefined;

/** Signs in, or throws the one error that does not tell whether the address exists. */
export async function signIn(db: Executor, res: Response, email: string, password: string): Promise<void> {
  const user = await firstRow<{ id: string; password_hash: string; workspace_id: string }>(
    db,
    sql`select u.id, u.password_hash, m.workspace_id from users u join members m on m.user_id = u.id where u.email = ${email} order by m.workspace_id limit 1`,
  );
  decoy ??= hashPassword('decoy');
  const right = await verify(user?.password_hash ?? (await decoy), password);
  if (!user || !right)
    throw new UserError(
      401,
      'wrong-sign-in',
      'That address and password do not fit together. Check both and try again.',
      'password',
    );
  const token = randomBytes(32).toString('base64url');
  await db.execute(
    sql`insert into web_sessions (token_hash, user_id, workspace_id, expires_at) values (${sha256(token)}, ${user.id}, ${user.workspace_id}, ${Date.now() + LIFE_MS})`,
  );
  setCookie(res, token, LIFE_MS / 1000);
}

const tokenOf = (req: Request) => parseCookie(req.headers.cookie ?? '')[COOKIE];

export async function signOut(db: Executor, req: Request, res: Response): Promise<void> {
  const token = tokenOf(req);
  if (token) await db.execute(sql`delete from web_sessions where token_hash = ${sha256(token)}`);
  setCookie(res, '', 0);
}

/** Who asks, or null when nobody is signed in. */
export async function whoAsks(db: Executor, req: Request): Promise<Me | null> {
  const token = tokenOf(req);
  if (!token) return null;
  const row = await firstRow<{
    user_id: string;
    user_name: string;
    email: string;
    role: Me['user']['role'];
    id: string;
    name: string;
    zone: string;
    currency: string;
  }>(
    db,
    sql`select u.id as user_id, u.name as user_name, u.email, m.role, w.id, w.name, w.zone, w.currency
        from web_sessions s join users u on u.id = s.user_id
        join members m on m.user_id = u.id and m.workspace_id = s.workspace_id
        join workspaces w on w.id = s.workspace_id
        where s.token_hash = ${sha256(token)} and s.expires_at > ${Date.now()}`,
  );
  if (!row) return null;
  return {
    user: { id: row.user_id, name: row.user_name, email: row.email, role: row.role },
    workspace: { id: row.id, name: row.name, zone: row.zone, currency: row.currency },
  };
}
