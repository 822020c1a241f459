import { createHmac, timingSafeEqual } from 'node:crypto';
import type { SendKey } from './token.ts';

// The address that mail comes back to names the email it was (variable envelope return path): signed, so that nobody can
// report what was never sent to them, and in small letters, since some servers make them so. RFC 5321, 4.5.3.1.1: a local part
// has 64 characters at most.

/** RFC 4648, 6, in small letters. */
const LETTERS = 'abcdefghijklmnopqrstuvwxyz234567';
const MAC_BYTES = 6;
const bytesOf = (uuid: string) => Buffer.from(uuid.replaceAll('-', ''), 'hex');
const uuidOf = (b: Buffer) => b.toString('hex').replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
const mac = (secret: string, body: Buffer) =>
  createHmac('sha256', secret).update('return path ').update(body).digest().subarray(0, MAC_BYTES);

function base32(bytes: Buffer): string {
  let [bits, held, out] = [0, 0, ''];
  for (const b of bytes) {
    held = ((held << 8) | b) & 0xffff;
    bits += 8;
    while (bits >= 5) {
      bits -= 5;
      out += LETTERS[(held >> bits) & 31];
    }
  }
  return bits > 0 ? out + LETTERS[(held << (5 - bits)) & 31] : out;
}

function fromBase32(text: string): Buffer | null {
  const out: number[] = [];
  let [bits, held] = [0, 0];
  for (const c of text) {
    const five = LETTERS.indexOf(c);
    if (five < 0) return null;
    held = ((held << 5) | five) & 0xffff;
    bits += 5;
    if (bits >= 8) {
      bits -= 8;
      out.push((held >> bits) & 255);
    }
  }
  return Buffer.from(out);
}

/** The address that an email comes back to. */
export function returnPath(secret: string, key: SendKey, domain: string): string {
  const body = Buffer.concat([bytesOf(key.workspaceId), bytesOf(key.sendId)]);
  return `b${base32(Buffer.concat([body, mac(secret, body)]))}@${domain}`;
}

/** The email that such an address names, or null where it is none of ours. */
export function readReturnPath(secret: string, address: string): SendKey | null {
  const local = /^<?b([a-z2-7]{61})@/i.exec(address.trim())?.[1];
  const all = local ? fromBase32(local.toLowerCase()) : null;
  if (all?.length !== 32 + MAC_BYTES) return null;
  const body = all.subarray(0, 32);
  if (!timingSafeEqual(all.subarray(32), mac(secret, body))) return null;
  return { workspaceId: uuidOf(body.subarray(0, 16)), sendId: uuidOf(body.subarray(16)) };
}
