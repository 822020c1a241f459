import SMTPConnection from 'nodemailer/lib/smtp-connection';

// What receiving servers send back: reports of delivery (RFC 3464) and of complaints (RFC 5965), as their own programs write
// them.

const HOST = 'mx.readers.example';

/** What comes back from an address, or null where its mail stays. */
export function bounceOf(address: string): { status: string; reply: string } | null {
  const domain = address.split('@')[1]?.toLowerCase();
  if (domain === 'left.example') return { status: '5.1.1', reply: '550 5.1.1 The account does not exist' };
  if (domain === 'full.example') return { status: '4.2.2', reply: '452 4.2.2 The mailbox is full' };
  return null;
}

const headOf = (original: string) => original.slice(0, original.indexOf('\r\n\r\n') + 2);

interface Returned {
  to: string;
  from: string;
  original: string;
}

/** A report that a message could not be delivered. */
export const dsn = ({ to, from, status, reply, original }: Returned & { status: string; reply: string }): string =>
  [
    `From: Mail Delivery System <mailer-daemon@${HOST}>`,
    `To: ${from}`,
    'Subject: Returned mail: could not be delivered',
    'MIME-Version: 1.0',
    'Content-Type: multipart/report; report-type=delivery-status; boundary="=_report"',
    '',
    '--=_report',
    'Content-Type: text/plain; charset=us-ascii',
    '',
    `Your message to ${to} could not be delivered.`,
    '',
    '--=_report',
    'Content-Type: message/delivery-status',
    '',
    `Reporting-MTA: dns; ${HOST}`,
    '',
    `Final-Recipient: rfc822; ${to}`,
    'Action: failed',
    `Status: ${status}`,
    `Diagnostic-Code: smtp; ${reply}`,
    '',
    '--=_report',
    'Content-Type: text/rfc822-headers',
    '',
    headOf(original),
    '--=_report--',
    '',
  ].join('\r\n');

/** A report that somebody called a message spam. */
export const arf = ({ to, from, original }: Returned): string =>
  [
    `From: <feedback@${HOST}>`,
    `To: ${from}`,
    'Subject: Complaint about a message',
    'MIME-Version: 1.0',
    'Content-Type: multipart/report; report-type=feedback-report; boundary="=_report"',
    '',
    '--=_report',
    'Content-Type: text/plain; charset=us-ascii',
    '',
    'This is an abuse report for a message that our user received.',
    '',
    '--=_report',
    'Content-Type: message/feedback-report',
    '',
    'Feedback-Type: abuse',
    'User-Agent: Readers-Mail/1.0',
    'Version: 1',
    `Original-Mail-From: <${from}>`,
    `Original-Rcpt-To: <${to}>`,
    '',
    '--=_report',
    'Content-Type: message/rfc822',
    '',
    original,
    '--=_report--',
    '',
  ].join('\r\n');

/** Hands a report over to whoever takes returned mail. One that is not taken is lost, as it is in the world. */
export async function sendBack(port: number | undefined, to: string, message: string): Promise<void> {
  if (port === undefined) return;
  const connection = new SMTPConnection({ host: '127.0.0.1', port, ignoreTLS: true });
  await new Promise<void>((resolve) => {
    const end = () => {
      connection.close();
      resolve();
    };
    connection.on('error', end);
    // RFC 5321, 4.5.5: reports come from nobody, so that no report of a report is made.
    connection.connect(() => connection.send({ from: '', to: [to] }, message, end));
  });
}
