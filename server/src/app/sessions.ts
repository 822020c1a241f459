import { hash, verify } from '@node-rs/argon2';
import { parseCookie, stringifySetCookie } from 'cookie';
import { and, desc, eq, gt, lt, ne, sql } from 'drizzle-orm';
import type { Request, Response } from 'express';
import type { Me, SessionRow } from '@ascenso/contracts';
import type { Db, Executor } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { users, webSessions } from '../db/schema/index.ts';
import { UserError } from './errors.ts';
import { sha256 } from './hash.ts';
import { randomBytes } from './chance.ts';

const COOKIE = 'ascenso_session';
/** Setting of the Express application: the cookie travels over https only. */
export const SECURE = 'secure cookies';
/** How exactly it is kept when a session was last used, ms. */
const SEEN_EVERY = 60_000;
const LIFE_MS = 30 * 86_400_000;

/** argon2id with the library's parameters, which are those of OWASP's password storage advice. */
export const hashPassword = (password: string): Promise<string> => hash(password);

/** Express knows of an https base address by its setting "secure cookies". */
const setCookie = (res: Response, value: string, maxAge: number) =>
  res.setHeader(
    'Set-Cookie',
    stringifySetCookie({
      name: COOKIE,
      value,
      httpOnly: true,
      sameSite: 'strict',
      path: '/',
      maxAge,
      secure: res.app.get(SECURE) === true,
    }),
  );

// Verified against when there is no such user, so that the answer takes as long.
let decoy: Promise<string> | undefined;

/** Signs in, or throws the one error that does not tell whether the address exists. */
export async function signIn(
  db: Executor,
  { req, res }: { req: Request; res: Response },
  email: string,
  password: string,
): Promise<void> {
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
  const now = Date.now();
  await db.delete(webSessions).where(lt(webSessions.expiresAt, now));
  await db.insert(webSessions).values({
    tokenHash: sha256(token),
    userId: user.id,
    workspaceId: user.workspace_id,
    expiresAt: now + LIFE_MS,
    createdAt: now,
    seenAt: now,
    agent: (req.get('user-agent') ?? '').slice(0, 300),
  });
  setCookie(res, token, LIFE_MS / 1000);
}

const tokenOf = (req: Request) => parseCookie(req.headers.cookie ?? '')[COOKIE];

export async function signOut(db: Executor, req: Request, res: Response): Promise<void> {
  const token = tokenOf(req);
  if (token) await db.execute(sql`delete from web_sessions where token_hash = ${sha256(token)}`);
  setCookie(res, '', 0);
}

/** Who asks is looked up once for each request. */
const asking = new WeakMap<Request, Promise<Me | null>>();

/** Who asks, or null when nobody is signed in. */
export function whoAsks(db: Executor, req: Request): Promise<Me | null> {
  const known = asking.get(req);
  if (known) return known;
  const found = lookUp(db, req);
  asking.set(req, found);
  return found;
}

async function lookUp(db: Executor, req: Request): Promise<Me | null> {
  const token = tokenOf(req);
  if (!token) return null;
  const now = Date.now();
  const row = await firstRow<{
    seen_at: number;
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
    sql`select s.seen_at, u.id as user_id, u.name as user_name, u.email, m.role, w.id, w.name, w.zone, w.currency
        from web_sessions s join users u on u.id = s.user_id
        join members m on m.user_id = u.id and m.workspace_id = s.workspace_id
        join workspaces w on w.id = s.workspace_id
        where s.token_hash = ${sha256(token)} and s.expires_at > ${now}`,
  );
  if (!row) return null;
  if (row.seen_at < now - SEEN_EVERY)
    await db
      .update(webSessions)
      .set({ seenAt: now })
      .where(eq(webSessions.tokenHash, sha256(token)));
  return {
    user: { id: row.user_id, name: row.user_name, email: row.email, role: row.role },
    workspace: { id: row.id, name: row.name, zone: row.zone, currency: row.currency },
  };
}

/** Where a user is signed in, the latest used first. */
export async function sessionsOf(db: Executor, req: Request, userId: string): Promise<SessionRow[]> {
  const { id, tokenHash, createdAt, seenAt, agent } = webSessions;
  const found = await db
    .select({ id, tokenHash, createdAt, seenAt, agent })
    .from(webSessions)
    .where(and(eq(webSessions.userId, userId), gt(webSessions.expiresAt, Date.now())))
    .orderBy(desc(webSessions.seenAt));
  const own = sha256(tokenOf(req) ?? '');
  return found.map(({ tokenHash: hash, ...row }) => ({ ...row, current: hash === own }));
}

/** Ends one session of a user. Answers whether there was one. */
export async function endSession(db: Executor, userId: string, id: string): Promise<boolean> {
  const gone = await db
    .delete(webSessions)
    .where(and(eq(webSessions.userId, userId), eq(webSessions.id, id)))
    .returning({ id: webSessions.id });
  return gone.length > 0;
}

/** Ends all sessions of a user but the one that asks. */
export async function endOtherSessions(db: Executor, req: Request, userId: string): Promise<void> {
  await db
    .delete(webSessions)
    .where(and(eq(webSessions.userId, userId), ne(webSessions.tokenHash, sha256(tokenOf(req) ?? ''))));
}

/** Gives a user another password, who has to say the old one; everywhere else they are signed out. */
export async function changePassword(
  db: Db,
  req: Request,
  userId: string,
  { old, next }: { old: string; next: string },
): Promise<void> {
  const [user] = await db.select({ hash: users.passwordHash }).from(users).where(eq(users.id, userId));
  if (!user || !(await verify(user.hash, old)))
    throw new UserError(422, 'wrong-password', 'That is not your current password. Check it and try again.', 'old');
  const passwordHash = await hashPassword(next);
  await db.transaction(async (tx) => {
    await tx.update(users).set({ passwordHash }).where(eq(users.id, userId));
    await endOtherSessions(tx, req, userId);
  });
}
