import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { onStop, staysOnTheLine, writeWhole } from '../keeping.ts';
import { Crowd, newCrowd, type CrowdState, type Doors } from './crowd.ts';

// The crowd's HTTP door: POST /begin {seed, people, from, to, doors}, POST /act {now}. Its state is kept in a file.
const file = path.join(process.env.CROWD_FOLDER ?? '.ascenso/crowd', 'crowd.json');
mkdirSync(path.dirname(file), { recursive: true });
const kept = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as { state: CrowdState; doors: Doors }) : null;
let doors: Doors | null = kept?.doors ?? null;
let crowd = kept ? new Crowd(kept.state, kept.doors) : null;
let saved = 0;

function save(force: boolean): void {
  if (!crowd || (!force && Date.now() - saved < 5_000)) return;
  writeWhole(file, JSON.stringify({ state: crowd.state, doors }));
  saved = Date.now();
}

async function answer(url: string, body: string): Promise<unknown> {
  const data = JSON.parse(body || '{}') as {
    now: number;
    doors: Doors;
    seed: number;
    people: number;
    from: number;
    to: number;
    grows: boolean;
    atOnce?: number;
  };
  if (url === '/begin') {
    doors = data.doors;
    crowd = new Crowd(newCrowd(data), data.doors);
    save(true);
    return {};
  }
  if (url !== '/act') return null;
  const result = crowd ? await crowd.act(data.now) : { acted: 0, nextAt: null };
  save(false);
  return result;
}

const server = createServer((req, res) => {
  let body = '';
  req.on('data', (d) => (body += d));
  req.on('end', () => {
    answer(req.url ?? '/', body).then(
      (result) =>
        res.writeHead(result === null ? 404 : 200, { 'Content-Type': 'application/json' }).end(JSON.stringify(result)),
      (error: unknown) => res.writeHead(500).end(String(error)),
    );
  });
});
staysOnTheLine(server).listen(Number(process.env.CROWD_PORT ?? 0), '127.0.0.1', () =>
  console.log(JSON.stringify({ ready: true, port: (server.address() as AddressInfo).port })),
);
onStop(async () => {
  save(true);
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
});
