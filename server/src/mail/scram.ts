import { createHash, createHmac, pbkdf2, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';
import { randomBytes } from '../app/chance.ts';

// SCRAM-SHA-256 (RFC 5802, RFC 7677): a login in which the password never travels, and the server shows that it knows it too.

const derive = promisify(pbkdf2);
/** More rounds than this are asked for by nobody who wants us to log in. */
const MOST_ROUNDS = 600_000;

const hmac = (key: Buffer, text: string) => createHmac('sha256', key).update(text).digest();
const attributesOf = (message: string) => new Map(message.split(',').map((part) => [part[0] ?? '', part.slice(2)]));

/** What a client says second, and what the server has to answer to it. */
export interface ScramFinal {
  message: string;
  serverSignature: string;
}

/** The first message of a client that calls itself `user`. */
export const scramFirst = (user: string, nonce: string): string =>
  `n,,n=${user.replaceAll('=', '=3D').replaceAll(',', '=2C')},r=${nonce}`;

/** The answer to a server's first message. Throws a sentence for one that does not belong to ours. */
export async function scramFinal(first: string, password: string, challenge: string): Promise<ScramFinal> {
  const bare = first.slice(3);
  const nonce = attributesOf(bare).get('r') ?? '';
  const given = attributesOf(challenge);
  const [both, salt, rounds] = [given.get('r') ?? '', given.get('s') ?? '', Number(given.get('i'))];
  if (!both.startsWith(nonce) || both.length === nonce.length || salt === '')
    throw new Error('The mail server answered the login (SCRAM) with something that does not belong to it.');
  if (!Number.isInteger(rounds) || rounds < 1 || rounds > MOST_ROUNDS)
    throw new Error(`The mail server asks for ${given.get('i')} rounds of a password (SCRAM), which is out of reason.`);
  const salted = await derive(password.normalize('NFKC'), Buffer.from(salt, 'base64'), rounds, 32, 'sha256');
  const clientKey = hmac(salted, 'Client Key');
  const storedKey = createHash('sha256').update(clientKey).digest();
  const withoutProof = `c=biws,r=${both}`;
  const message = `${bare},${challenge},${withoutProof}`;
  const signature = hmac(storedKey, message);
  const proof = Buffer.from(clientKey.map((byte, i) => byte ^ (signature[i] ?? 0)));
  return {
    message: `${withoutProof},p=${proof.toString('base64')}`,
    serverSignature: hmac(hmac(salted, 'Server Key'), message).toString('base64'),
  };
}

/** What nodemailer hands to a login of one's own. */
export interface AuthContext {
  auth: { credentials?: { user?: string; pass?: string } };
  /** Ways that it knows and the server offers. */
  authMethods: string[];
  sendCommand: (command: string) => Promise<{ status: number; text: string; response: string }>;
}

const encoded = (text: string) => Buffer.from(text).toString('base64');

async function say(context: AuthContext, command: string, expected: number): Promise<string> {
  const { status, text, response } = await context.sendCommand(command);
  if (status !== expected) throw new Error(response);
  return Buffer.from(text.trim(), 'base64').toString();
}

async function scram(context: AuthContext, user: string, password: string): Promise<void> {
  const first = scramFirst(user, randomBytes(18).toString('base64'));
  const challenge = await say(context, `AUTH SCRAM-SHA-256 ${encoded(first)}`, 334);
  const final = await scramFinal(first, password, challenge);
  const answer = attributesOf(await say(context, encoded(final.message), 334)).get('v') ?? '';
  const [theirs, ours] = [Buffer.from(answer), Buffer.from(final.serverSignature)];
  if (theirs.length !== ours.length || !timingSafeEqual(theirs, ours))
    throw new Error('The mail server does not know the password itself (SCRAM): it is not the one that it says it is.');
  await say(context, '', 235);
}

/** Logs in where nodemailer would take PLAIN: by it where the server offers it, else by SCRAM, which nodemailer does not know. */
export async function logIn(context: AuthContext): Promise<void> {
  const { user = '', pass = '' } = context.auth.credentials ?? {};
  if (!context.authMethods.includes('PLAIN')) return scram(context, user, pass);
  await say(context, `AUTH PLAIN ${encoded(`\u0000${user}\u0000${pass}`)}`, 235);
}
