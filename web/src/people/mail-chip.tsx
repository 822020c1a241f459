import type { MailStatus } from '@ascenso/core';
import { Chip } from '../ui/index.tsx';

/** Whether mail goes to somebody, or what has ended it. */
export function MailChip({ status }: { status: MailStatus }) {
  if (status === 'ok') return <Chip tone="live">Gets mail</Chip>;
  return (
    <Chip tone={status === 'unsubscribed' ? 'draft' : 'error'}>
      {{ unsubscribed: 'Unsubscribed', bounced: 'Bounced', complained: 'Complained' }[status]}
    </Chip>
  );
}
