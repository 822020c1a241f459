import { createHmac } from 'node:crypto';
import { lookup } from 'node:dns/promises';
import http from 'node:http';
import https from 'node:https';
import ipaddr from 'ipaddr.js';

const TIMEOUT_MS = 15_000;
/** For the whole of a call. */
const LONGEST_MS = 30_000;
const USER_AGENT = 'Ascenso-Webhooks/1 (Standard Webhooks)';

/** The secret that a workspace's webhooks are signed with, as its receiver is given it: "whsec_" and base64. */
export function webhookSecret(secret: string, workspace: string): string {
  return `whsec_${createHmac('sha256', secret).update(`webhooks/${workspace}`).digest('base64')}`;
}

/** Signature of a call by the Standard Webhooks specification: HMAC-SHA256 of id, timestamp (s) and body. */
export function signWebhook(secret: string, id: string, timestamp: number, body: string): string {
  const key = Buffer.from(secret.replace(/^whsec_/, ''), 'base64');
  return `v1,${createHmac('sha256', key).update(`${id}.${timestamp}.${body}`).digest('base64')}`;
}

/** Whether an address is one that anybody on the internet could have, and no machine of ours or our neighbours. */
export function isPublic(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  return ipaddr.process(address).range() === 'unicast';
}

export interface CallSettings {
  secret: string;
  workspace: string;
  /** "host:port" of stand-ins that may be called although they are private. */
  allowed: readonly string[];
}

/** The address to connect to, asked of DNS once and pinned; throws for one that may not be called. */
async function addressOf(url: URL, allowed: readonly string[]): Promise<{ address: string; family: number }> {
  const port = url.port || (url.protocol === 'https:' ? '443' : '80');
  const name = url.hostname.replace(/^\[|\]$/g, '');
  const found = await lookup(name, { all: true });
  const first = found[0];
  if (!first) throw new Error(`${name} has no address.`);
  if (!allowed.includes(`${name}:${port}`) && !found.every((f) => isPublic(f.address)))
    throw new Refused(`${name} is an address inside this network: only public ones are called.`);
  return first;
}

class Refused extends Error {}

/** What came of a call: taken, refused for good, or to be tried again later. */
export interface Called {
  /** Unready: whoever takes it was not there to be asked, and nothing was tried. */
  kind: 'accepted' | 'refused' | 'later' | 'unready';
  answer: string;
  /** How long the receiver asked to be left alone for, ms. */
  retryAfterMs?: number;
}

/** Retry-After (RFC 9110, 10.2.3): seconds, or a date. */
export function retryAfter(value: string | undefined, now: number): number | undefined {
  if (value === undefined) return undefined;
  const ms = /^\d+$/.test(value.trim()) ? Number(value) * 1000 : Date.parse(value) - now;
  return Number.isFinite(ms) && ms > 0 ? ms : undefined;
}

/**
 * POSTs one signed JSON body. 2xx is accepted; 410 and a forbidden address are final, anything else is tried again later.
 * Redirects are not followed: their target has not been checked.
 */
export async function callWebhook(
  to: string,
  { id, body }: { id: string; body: string },
  settings: CallSettings,
): Promise<Called> {
  try {
    const url = new URL(to);
    const { address, family } = await addressOf(url, settings.allowed);
    const timestamp = Math.floor(Date.now() / 1000);
    const secret = webhookSecret(settings.secret, settings.workspace);
    const { status, wait } = await new Promise<{ status: number; wait: number | undefined }>((resolve, reject) => {
      const request = (url.protocol === 'https:' ? https : http).request(
        url,
        {
          method: 'POST',
          timeout: TIMEOUT_MS,
          // However slowly it answers, bit by bit.
          signal: AbortSignal.timeout(LONGEST_MS),
          agent: false,
          lookup: (_name, options, done) =>
            options.all ? done(null, [{ address, family }]) : done(null, address, family),
          headers: {
            'content-type': 'application/json',
            'user-agent': USER_AGENT,
            'content-length': Buffer.byteLength(body),
            'webhook-id': id,
            'webhook-timestamp': String(timestamp),
            'webhook-signature': signWebhook(secret, id, timestamp, body),
          },
        },
        (answer) => {
          answer.resume();
          const wait = retryAfter(answer.headers['retry-after'], Date.now());
          resolve({ status: answer.statusCode ?? 0, wait });
        },
      );
      request.on('timeout', () => request.destroy(new Error(`No answer within ${TIMEOUT_MS / 1000} s`)));
      request.on('error', reject);
      request.end(body);
    });
    if (status >= 200 && status < 300) return { kind: 'accepted', answer: String(status) };
    return {
      kind: status === 410 ? 'refused' : 'later',
      answer: `Answered ${status}`,
      ...(wait === undefined ? {} : { retryAfterMs: wait }),
    };
  } catch (error) {
    return { kind: error instanceof Refused ? 'refused' : 'later', answer: (error as Error).message };
  }
}
