/** Where in a session a receiving server said no (RFC 5321). */
export type Stage = 'connect' | 'greeting' | 'hello' | 'tls' | 'login' | 'mail' | 'rcpt' | 'data' | 'message';

/** What a refusal is about: only "mailbox" says anything of the person. */
export type Fault = 'mailbox' | 'sender' | 'session' | 'email' | 'later';

/** Stages of a session in which nothing has been said of any message yet. */
const BEFORE: ReadonlySet<Stage> = new Set<Stage>(['connect', 'greeting', 'hello', 'tls', 'login']);

export interface Refusal {
  stage: Stage;
  /** Reply code of RFC 5321. */
  code: number;
  /** Enhanced status code of RFC 3463 as the server wrote it, such as "5.1.1", or null. */
  enhanced: string | null;
}

/** The enhanced status code at the head of a reply's text, if it agrees with the class of the reply (RFC 2034, 4). */
export function enhancedOf(code: number, reply: string): string | null {
  const found = /^\s*(?:\d{3}[ -]\s*)?([245]\.\d{1,3}\.\d{1,3})(?=\s|$)/.exec(reply)?.[1];
  return found && found[0] === String(code)[0] ? found : null;
}

/**
 * Enhanced codes that say of the address itself that it is not there, or takes no mail for good (RFC 3463, 3.2 and 3.3;
 * 5.1.10 of RFC 7505: the domain takes none).
 */
const GONE = /^5\.(1\.[01236]|1\.10|2\.[01])$/;
/** Of the sender's address (RFC 3463, 3.2; X.7.27 of RFC 7505 and X.1.7, X.1.8). */
const SENDER = /^5\.(1\.[789]|7\.27)$/;

/** Codes without an enhanced one that speak of the mailbox at RCPT (RFC 5321, 4.2.3; 556 of RFC 7504). */
const GONE_PLAIN: ReadonlySet<number> = new Set([550, 551, 553, 556]);

/** How a receiving server's no is read: a table of its cases stands in server/test/refusals.test.ts. */
export function faultOf({ stage, code, enhanced }: Refusal): Fault {
  // Whatever it says before it knows of a message is about us, also where it says "not now".
  if (BEFORE.has(stage)) return 'session';
  if (code < 500) return 'later';
  // A mailbox that is full takes mail again one day (X.2.2 of RFC 3463; 552 at RCPT in RFC 5321, 4.5.3.1.10).
  if (enhanced === '5.2.2' || (stage === 'rcpt' && enhanced === null && code === 552)) return 'later';
  switch (stage) {
    // Of these `BEFORE` has spoken.
    case 'connect':
    case 'greeting':
    case 'hello':
    case 'tls':
    case 'login':
      return 'session';
    case 'mail':
      return code === 530 || code === 538 ? 'session' : 'sender';
    case 'rcpt':
      // "Authenticate first", "STARTTLS first": said of the session, at whatever command (RFC 3207, 4; RFC 4954, 6).
      if (code === 530 || code === 538) return 'session';
      if (enhanced === null) return GONE_PLAIN.has(code) ? 'mailbox' : 'email';
      if (SENDER.test(enhanced)) return 'sender';
      return GONE.test(enhanced) ? 'mailbox' : 'email';
    case 'data':
    case 'message':
      if (code === 530 || code === 538) return 'session';
      return enhanced !== null && SENDER.test(enhanced) ? 'sender' : 'email';
  }
}
