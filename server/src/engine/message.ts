import type { Addresses, Values } from '@ascenso/core';
import type { LoadedProgram } from '../db/versions.ts';
import { buildMessage, type Attachment } from '../mail/mime.ts';
import { signSend, type Door } from '../mail/token.ts';
import type { LeasedRow } from './leasing.ts';
import type { SendSettings } from './settings.ts';

/** The addresses that an email of one send carries; `token` makes the one for a door. */
export function addressesFor(base: string, token: (door: Door) => string): Addresses {
  let click: string | undefined;
  return {
    base,
    unsubscribe: `${base}/u/${token('u')}`,
    open: `${base}/o/${token('o')}.gif`,
    link: (n) => `${base}/c/${(click ??= token('c'))}/${n}`,
    timer: (n) => `${base}/t/${token('t')}/${n}.gif`,
  };
}

/** The finished message of a send that has its values. */
export function messageOf(
  row: Pick<LeasedRow, 'workspace_id' | 'id' | 'due_at' | 'list_id' | 'list_name'>,
  { program, encoded, sender }: Pick<LoadedProgram, 'program' | 'encoded' | 'sender'>,
  to: string,
  values: Values,
  settings: Pick<SendSettings, 'base' | 'secret'>,
  attachments: readonly Attachment[],
): string {
  const key = { workspaceId: row.workspace_id, sendId: row.id };
  const domain = sender.email.split('@')[1] ?? 'localhost';
  return buildMessage({
    sendId: row.id,
    program,
    encoded,
    values,
    addresses: addressesFor(settings.base, (door) => signSend(settings.secret, key, door)),
    from: sender,
    to: { name: '', email: to },
    date: row.due_at,
    attachments,
    list: row.list_id ? { id: `${row.list_id}.${domain}`, name: row.list_name ?? '' } : null,
  });
}
