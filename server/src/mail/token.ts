import { createHmac, timingSafeEqual } from 'node:crypto';

/** What an address in an email points back to. */
export interface SendKey {
  workspaceId: string;
  sendId: string;
}

const MAC_BYTES = 10;
const bytesOf = (uuid: string) => Buffer.from(uuid.replaceAll('-', ''), 'hex');
const uuidOf = (bytes: Buffer) => bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
const mac = (secret: string, body: Buffer) => createHmac('sha256', secret).update(body).digest().subarray(0, MAC_BYTES);

/** A signed name of a send, safe in an address: nobody can make one without the installation's secret. */
export function signSend(secret: string, key: SendKey): string {
  const body = Buffer.concat([bytesOf(key.workspaceId), bytesOf(key.sendId)]);
  return Buffer.concat([body, mac(secret, body)]).toString('base64url');
}

/** The send that a token names, or null when the signature does not fit. */
export function readSend(secret: string, token: string): SendKey | null {
  const all = Buffer.from(token, 'base64url');
  if (all.length !== 32 + MAC_BYTES) return null;
  const body = all.subarray(0, 32);
  if (!timingSafeEqual(all.subarray(32), mac(secret, body))) return null;
  return { workspaceId: uuidOf(body.subarray(0, 16)), sendId: uuidOf(body.subarray(16)) };
}

/** A signed text, safe in an address. */
export function signText(secret: string, text: string): string {
  const body = Buffer.from(text);
  return `${body.toString('base64url')}.${mac(secret, body).toString('base64url')}`;
}

/** The text of a signed one, or null when the signature does not fit. */
export function readText(secret: string, token: string): string | null {
  const [body = '', signature = ''] = token.split('.').map((part) => Buffer.from(part, 'base64url'));
  if (typeof body === 'string' || typeof signature === 'string' || signature.length !== MAC_BYTES) return null;
  return timingSafeEqual(signature, mac(secret, body)) ? body.toString() : null;
}
