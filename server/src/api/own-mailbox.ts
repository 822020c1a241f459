import type { MailAnswer, MailboxAnswer } from '@ascenso/contracts';
import type { Executor } from '../db/connect.ts';
import { ownMail } from '../db/sends.ts';

/** Ids that are asked for at once, and the most that are looked through for a workspace's own. */
const PAGE = 1_000;
const MOST = 20_000;

interface Listed {
  id: number;
  messageId: string;
}

/** The send or notice that a message is of: its Message-ID is made from it. */
const sendOf = ({ messageId }: { messageId: string }) => /^<([0-9a-f-]{36})@/.exec(messageId)?.[1];

/** The simulated mailbox, which takes the mail of the whole installation, as one workspace may see it. */
export class OwnMailbox {
  readonly #url: string;
  readonly #db: Executor;

  constructor(url: string, db: Executor) {
    this.#url = url;
    this.#db = db;
  }

  async #ask<T>(path: string): Promise<T | null> {
    const answer = await fetch(`${this.#url}${path}`);
    return answer.ok ? ((await answer.json()) as T) : null;
  }

  async #own<T extends { messageId: string }>(ws: string, messages: readonly T[]): Promise<T[]> {
    const ids = messages.flatMap((m) => sendOf(m) ?? []);
    const own = await ownMail(this.#db, ws, ids);
    return messages.filter((m) => own.has(sendOf(m) ?? ''));
  }

  /** The newest messages to an address that holds `q`, and whether there are more. */
  async newest(ws: string, q: string, limit: number): Promise<MailboxAnswer> {
    const found: Listed[] = [];
    let before = '';
    for (let seen = 0; found.length <= limit && seen < MOST; seen += PAGE) {
      const asked = new URLSearchParams({ q, limit: String(PAGE), ...(before && { before }) });
      const page = (await this.#ask<{ messages: Listed[] }>(`/index?${asked}`))?.messages ?? [];
      found.push(...(await this.#own(ws, page)));
      if (page.length < PAGE) break;
      before = String(page.at(-1)?.id);
    }
    const ids = found.slice(0, limit).map((m) => m.id);
    const messages = (await this.#ask<Pick<MailboxAnswer, 'messages'>>(`/messages?ids=${ids.join(',')}`))?.messages;
    return { messages: messages ?? [], more: found.length > limit };
  }

  /** Its reader calls a message spam: the simulated mail world sends the report. False where it is not there to be called so. */
  async complain(ws: string, number: number): Promise<boolean> {
    if (!(await this.one(ws, number))) return false;
    return (await fetch(`${this.#url}/complain/${number}`, { method: 'POST' })).ok;
  }

  /** One message in full; null where there is none of that number, or it is another workspace's. */
  async one(ws: string, number: number): Promise<MailAnswer | null> {
    const message = await this.#ask<MailAnswer & { messageId: string }>(`/messages/${number}`);
    if (!message) return null;
    const [own] = await this.#own(ws, [message]);
    return own ?? null;
  }
}
