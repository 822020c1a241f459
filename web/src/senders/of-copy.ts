import type { SenderRow } from '@ascenso/contracts';

/**
 * The sender of an email in a copy that a user makes of it: what is from a colleague's own becomes from the user's own. Anything
 * else, and where the user has none, stays. '' is the default sender.
 */
export function senderOfCopy(sender: string, senders: readonly SenderRow[], user: string): string {
  const from = senders.find((s) => s.id === sender) ?? senders.find((s) => s.isDefault);
  const own = senders.find((s) => s.user?.id === user);
  if (!from?.user || from.user.id === user || !own) return sender;
  return own.isDefault ? '' : own.id;
}
