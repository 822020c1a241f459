import { createHmac, timingSafeEqual } from 'node:crypto';

/** What an address in an email points back to. */
export interface SendKey {
  workspaceId: string;
  sendId: string;
}

/** Doors of an email's addresses, by the letter that stands in them: its opening, its links, the way out, its timers. */
export type Door = 'o' | 'c' | 'u' | 't';

const MAC_BYTES = 10;
/** One byte more than an earlier release had, whose tokens opened every door: so they are told apart. */
const DOOR_MAC_BYTES = 11;
const bytesOf = (uuid: string) => Buffer.from(uuid.replaceAll('-', ''), 'hex');
const uuidOf = (bytes: Buffer) => bytes.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
const mac = (secret: string, body: Buffer) => createHmac('sha256', secret).update(body).digest().subarray(0, MAC_BYTES);

const doorMac = (secret: string, door: Door, body: Buffer) =>
  createHmac('sha256', secret).update(`door ${door} `).update(body).digest().subarray(0, DOOR_MAC_BYTES);

/**
 * A signed name of a send for one door, safe in an address: nobody can make one without the installation's secret, and whoever
 * has come to know that of a picture cannot unsubscribe its reader with it.
 */
export function signSend(secret: string, key: SendKey, door: Door): string {
  const body = Buffer.concat([bytesOf(key.workspaceId), bytesOf(key.sendId)]);
  return Buffer.concat([body, doorMac(secret, door, body)]).toString('base64url');
}

/** The send that a token names, or null when the signature does not fit, or is for another door. */
export function readSend(secret: string, token: string, door: Door): SendKey | null {
  const all = Buffer.from(token, 'base64url');
  const [body, signature] = [all.subarray(0, 32), all.subarray(32)];
  const wanted =
    signature.length === DOOR_MAC_BYTES
      ? doorMac(secret, door, body)
      : signature.length === MAC_BYTES
        ? mac(secret, body)
        : null;
  if (!wanted || !timingSafeEqual(signature, wanted)) return null;
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
