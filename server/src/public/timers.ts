import type { Response, Router } from 'express';
import { timerLinkRequest } from '@ascenso/contracts';
import { instantOfWall, zoneOf, type After, type TimerFace } from '@ascenso/core';
import type { AppContext } from '../app/context.ts';
import { businessNow } from '../app/clock.ts';
import type { Db } from '../db/connect.ts';
import { pictureOf } from '../db/files.ts';
import { offerDoc } from '../db/offer-store.ts';
import { timerOf } from '../db/sends.ts';
import { loadProgram } from '../db/versions.ts';
import { readSend, readText, type SendKey } from '../mail/token.ts';
import { timerGif } from '../timer/index.ts';

// A transparent GIF of one pixel.
export const PIXEL = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64');

/** Drawn anew at every opening: no program may keep it, and there is nothing to ask again with. */
export function sendGif(res: Response, gif: Uint8Array): void {
  res.set({
    'Content-Type': 'image/gif',
    'Cache-Control': 'no-store, no-cache, must-revalidate, max-age=0',
    Pragma: 'no-cache',
    Expires: '0',
    'Cross-Origin-Resource-Policy': 'cross-origin',
    'Content-Length': String(gif.length),
  });
  res.end(gif);
}

interface Asked {
  ws: string;
  face: TimerFace;
  after: After;
  /** Epoch ms. */
  at: number;
  language: string;
}

/** Answers with the timer as it is at this moment, or with what stands there once it is over. */
async function answer(db: Db, res: Response, asked: Asked): Promise<void> {
  const left = asked.at - (await businessNow(db));
  const { after } = asked;
  if (left <= 0 && after.kind === 'gone') return sendGif(res, PIXEL);
  if (left <= 0 && after.kind === 'picture')
    return res.set('Cache-Control', 'no-store').redirect(302, `/f/${after.file}`);
  const picture = (file: string) => pictureOf(db, asked.ws, file);
  sendGif(res, await timerGif({ face: asked.face, language: asked.language, left, after, picture }));
}

/** The countdown of a send, as its email was filled. */
async function ofSend(db: Db, key: SendKey, n: number): Promise<Asked | null> {
  const row = await timerOf(db, key, n);
  const value = row?.value;
  if (!row || value?.at == null) return null;
  // Compiled emails never change and are kept in memory: only the offer is asked anew.
  const { program } = await loadProgram(db, key.workspaceId, row.hash);
  const plan = program.timers?.[n];
  if (!plan) return null;
  const offer = plan.after || !program.offer ? undefined : await offerDoc(db, key.workspaceId, program.offer);
  const after = plan.after ?? offer?.after ?? { kind: 'zeros' as const };
  return { ws: key.workspaceId, face: plan.face, after, at: value.at, language: value.language };
}

/** What a signed text says of a timer; nothing for one that was signed for something else. */
function linkOf(text: string | null): Record<string, unknown> {
  try {
    const read: unknown = JSON.parse(text ?? '{}');
    return typeof read === 'object' && read !== null ? { ...read } : {};
  } catch {
    return {};
  }
}

/** Pictures of countdowns: those of emails, and those that somebody put elsewhere. */
export function timerRoutes(router: Router, ctx: AppContext): void {
  const { db } = ctx.connection;
  const { secret } = ctx.sending;

  router.get('/t/:token/:n.gif', async (req, res) => {
    const key = readSend(secret, req.params.token, 't');
    const asked = key && /^\d{1,3}$/.test(req.params.n) ? await ofSend(db, key, Number(req.params.n)) : null;
    if (!asked) return sendGif(res.status(404), PIXEL);
    await answer(db, res, asked);
  });

  router.get('/t/:token.gif', async (req, res) => {
    const { ws, ...link } = linkOf(readText(secret, req.params.token));
    // A link that was signed by an older release may hold what this one does not draw.
    const read = timerLinkRequest.safeParse(link);
    if (!read.success || typeof ws !== 'string') return sendGif(res.status(404), PIXEL);
    const { face, wall, zone, after } = read.data;
    await answer(db, res, { ws, face, after, at: instantOfWall(wall, zoneOf(zone)), language: 'en' });
  });
}
