import { encodeProgram, fillEncoded, valuesFor } from '@ascenso/core';
import { Liquid } from 'liquidjs';
import { addressesFor } from '../../server/src/engine/message.ts';
import { inTurn } from './support/measure.ts';
import { asLiquid, context, program } from './support/letter.ts';

const N = 2000;

/** Personal renders of the HTML per second, each ending as the bytes that are sent. */
export async function render(): Promise<void> {
  const p = await program();
  const encoded = encodeProgram(p);
  const addresses = addressesFor('http://ascenso.test', () => 'token');
  const engine = new Liquid({ ownPropertyOnly: true, outputEscape: 'escape' });
  const template = engine.parse(asLiquid(p, p.html));
  const subject = () => {
    let bytes = 0;
    for (let n = 0; n < N; n++)
      bytes += Buffer.from(fillEncoded(encoded.html, p, valuesFor(p, context(n)), addresses), 'latin1').length;
    return bytes > 0 ? N : 0;
  };
  const baseline = () => {
    let bytes = 0;
    const links = {
      base: addresses.base,
      open: addresses.open,
      unsubscribe: addresses.unsubscribe,
      link: `${addresses.base}/c/token`,
    };
    for (let n = 0; n < N; n++)
      bytes += Buffer.from(String(engine.renderSync(template, { ...context(n), addresses: links })), 'utf8').length;
    return bytes > 0 ? N : 0;
  };
  await inTurn(
    `render (${Math.round(p.bytes / 1000)} kB, to bytes; against liquidjs on the whole template)`,
    'renders/s',
    subject,
    baseline,
  );
}
