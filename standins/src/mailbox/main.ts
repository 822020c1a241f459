import { onStop } from '../keeping.ts';
import { startMailbox } from './mailbox.ts';

const mailbox = await startMailbox({
  folder: process.env.MAILBOX_FOLDER ?? '.ascenso/mailbox',
  smtpPort: Number(process.env.MAILBOX_SMTP_PORT ?? 0),
  httpPort: Number(process.env.MAILBOX_HTTP_PORT ?? 0),
  ...(process.env.RETURN_PORT ? { returnPort: Number(process.env.RETURN_PORT) } : {}),
});
console.log(JSON.stringify({ ready: true, smtpPort: mailbox.smtpPort, httpPort: mailbox.httpPort }));
onStop(mailbox.close);
