import { randomInt } from 'node:crypto';
import { existsSync } from 'node:fs';
import { createServer } from 'node:net';
import path from 'node:path';
import { readState, writeState } from './begun.mjs';

/** Below the range that systems take for what goes out (32768 on Linux, 49152 by RFC 6335): nobody is given one by chance. */
const [FIRST, LAST] = [20_000, 32_000];

/** Whether nobody listens on a port of loopback. */
export const isFree = (port) =>
  new Promise((resolve) => {
    const server = createServer();
    server.on('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });

// What this process has given out: whoever asked for one may not listen there yet.
const given = new Set();

/** A port of loopback that nobody listens on, and that this process has given to nobody else. */
export async function freePort() {
  for (let tries = 0; tries < 1_000; tries++) {
    const port = randomInt(FIRST, LAST);
    if (given.has(port) || !(await isFree(port))) continue;
    given.add(port);
    return port;
  }
  throw new Error(`No port of ${FIRST} to ${LAST} is free on this machine: something has taken them all.`);
}

const NAMES = ['web', 'smtp', 'mailbox', 'crowd', 'shop', 'figures', 'inbox'];
const REMEDY =
  'it holds the ports that stand in every address of the emails that were sent. Write them there again, as {"web": 21310, …}, or begin anew with --fresh.';

/** Throws a sentence for a file that holds no ports. */
function check(file, ports) {
  const all = typeof ports === 'object' && ports !== null && !Array.isArray(ports) ? Object.entries(ports) : null;
  if (!all) throw new Error(`${file} does not hold ports by name: ${REMEDY}`);
  for (const [name, port] of all)
    if (!Number.isInteger(port) || port < 1 || port > 65_535)
      throw new Error(`${file} says ${JSON.stringify(port)} for “${name}”, which is no port: ${REMEDY}`);
  const twice = all.find(([name, port]) => all.some(([other, same]) => other !== name && same === port));
  if (twice) throw new Error(`${file} gives port ${twice[1]} to two: ${REMEDY}`);
}

/**
 * The ports of an installation, by name: part of every address in every email that was sent, so chosen once and kept in a
 * file of its folder. Where nothing has been sent yet (`anew`), they are chosen again, but for those that are `given`. Throws a sentence
 * for a file that is broken, and for a port that somebody else listens on.
 */
export async function portsOf(folder, { anew, given = {} }) {
  const file = path.join(folder, 'ports.json');
  const ports = anew || !existsSync(file) ? { ...given } : readState(file, REMEDY);
  check(file, ports);
  for (const name of NAMES) {
    ports[name] ??= await freePort();
    if (!(await isFree(ports[name])))
      throw new Error(
        `Port ${ports[name]}, which this installation has for “${name}”, is taken by another program. End that one, and start again: “ss -ltnp sport = :${ports[name]}” says which it is. Or write another port for it into ${file}; addresses in emails that were sent lead to the old one.`,
      );
  }
  writeState(file, ports);
  return ports;
}
