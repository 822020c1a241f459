import { encodeProgram, fillProgram, valuesFor } from '@ascenso/core';
import MailComposer from 'nodemailer/lib/mail-composer';
import { addressesFor } from '../../server/src/engine/message.ts';
import { buildMessage } from '../../server/src/mail/mime.ts';
import { inTurn } from './support/measure.ts';
import { context, program } from './support/letter.ts';

const N = 200;
const from = { name: 'Inês at Foldwell', email: 'ines@foldwell.example' };

/** Whole messages built per second from values, against nodemailer's composer given the finished HTML and text. */
export async function mime(): Promise<void> {
  const p = await program();
  const encoded = encodeProgram(p);
  const addresses = addressesFor('http://ascenso.test', () => 'token');
  const values = Array.from({ length: N }, (_, n) => valuesFor(p, context(n)));
  const filled = values.map((v) => fillProgram(p, v, addresses));
  const subject = () => {
    let bytes = 0;
    for (let n = 0; n < N; n++)
      bytes += buildMessage({
        sendId: `01a212d8-a4c0-77ac-a941-${String(n).padStart(12, '0')}`,
        program: p,
        encoded,
        values: values[n] as never,
        addresses,
        from,
        to: { name: '', email: `reader${n}@readers.example` },
        date: 0,
        list: { id: 'list.foldwell.example', name: 'Workshop letters' },
      }).length;
    return bytes > 0 ? N : 0;
  };
  const baseline = async () => {
    for (let n = 0; n < N; n++) {
      const mail = new MailComposer({
        from: { name: from.name, address: from.email },
        to: `reader${n}@readers.example`,
        subject: filled[n]?.subject,
        html: filled[n]?.html,
        text: filled[n]?.text,
        textEncoding: 'quoted-printable',
      });
      await mail.compile().build();
    }
    return N;
  };
  await inTurn(
    `mime (${Math.round(p.bytes / 1000)} kB; against nodemailer's composer with textEncoding set)`,
    'messages/s',
    subject,
    baseline,
  );
}
