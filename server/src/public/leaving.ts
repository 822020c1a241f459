import express, { type Request, type Response, type Router } from 'express';
import {
  dateWords,
  escapeHtml,
  languageNameIn,
  leavingWords,
  unsubscribeWords,
  writtenLanguages,
  zoneOf,
  type Written,
} from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { INCOMPLETE, sendPage } from '../app/page.ts';
import { readerOfSend, type SendReader } from '../db/sends.ts';
import { readSend, type SendKey } from '../mail/token.ts';
import { choose, listsOffered, PACES, tellWhy } from '../people/preferences.ts';
import { unsubscribeFrom } from '../people/readings.ts';
import { sendHousePage } from './house-page.ts';

/** One language for each way of writing that a reader tells apart. */
const OFFERED: readonly Written[] = ['en', 'pt-PT', 'pt-BR', 'es', 'fr', 'de', 'it', 'nl', 'pl', 'sv', 'da'];

/** What a page is written in: the reader's language where it is one of ours, else the house's. */
const languageOf = ({ language, style }: SendReader): Written =>
  writtenLanguages.find((l) => l === language) ??
  writtenLanguages.find((l) => language !== null && l.slice(0, 2) === language.slice(0, 2)) ??
  style.language;

/** What somebody gets, and the way out of it: no sign-in, no script; the address in the email is the key. */
export function leavingRoutes(router: Router, ctx: AppContext): void {
  const { db } = ctx.connection;
  const body = express.urlencoded({ extended: false, limit: '4kb' });
  const readerOf = async (req: Request): Promise<{ key: SendKey; reader: SendReader } | null> => {
    const key = readSend(ctx.sending.secret, String(req.params.token ?? ''), 'u');
    const reader = key && (await readerOfSend(db, key));
    return key && reader ? { key, reader } : null;
  };
  const show = (res: Response, reader: SendReader, title: string, html: string) =>
    sendHousePage(res, 200, { style: reader.style, language: languageOf(reader), title, body: html });

  const showChoices = async (req: Request, res: Response, key: SendKey, reader: SendReader, saved: boolean) => {
    const language = languageOf(reader);
    const words = leavingWords[language];
    const now = await businessNow(db);
    const paused = (reader.pausedUntil ?? 0) > now;
    const token = encodeURIComponent(String(req.params.token));
    const box = (name: string, value: string, on: boolean, label: string, told = '') =>
      `<label class="option"><input type="checkbox" name="${name}" value="${value}"${on ? ' checked' : ''}> <span>${escapeHtml(label)}${told ? `<br><span class="soft">${escapeHtml(told)}</span>` : ''}</span></label>`;
    const lists = await listsOffered(db, key.workspaceId, reader.person);
    const until = dateWords(zoneOf(reader.zone), reader.pausedUntil ?? now, true);
    const languages = reader.hasLanguage
      ? `<label for="language">${escapeHtml(words.language)}</label><select id="language" name="language">${OFFERED.map((l) => `<option value="${l}"${l === language || (l === 'en' && language.startsWith('en')) ? ' selected' : ''} lang="${l}">${escapeHtml(languageNameIn(l))}</option>`).join('')}</select>`
      : '';
    show(
      res,
      reader,
      words.title,
      `${saved ? `<p role="status"><b>${escapeHtml(words.saved)}</b></p>` : ''}
<p>${escapeHtml(words.to).replace('{to}', `<b>${escapeHtml(reader.to)}</b>`)}</p>
<form method="post" action="/u/${token}"><button>${escapeHtml(unsubscribeWords[language])}</button></form>
<p class="soft" style="margin-top:6px">${escapeHtml(words.out)}</p>
<form method="post" action="/u/${token}/choose" style="margin-top:28px">
${lists.length > 0 ? `<fieldset><legend>${escapeHtml(words.lists)}</legend>${lists.map((l) => box('list', l.id, l.on, l.name, l.told)).join('')}</fieldset>` : ''}
<div style="margin-top:14px">${box('pause', 'yes', paused, paused ? words.paused.replace('{until}', until) : words.pause)}</div>
<fieldset style="margin-top:14px"><legend>${escapeHtml(words.often)}</legend>${[null, ...PACES].map((days, i) => `<label class="option"><input type="radio" name="pace" value="${days ?? ''}"${reader.pace === days ? ' checked' : ''}> ${escapeHtml(words.paces[i] ?? '')}</label>`).join('')}</fieldset>
${languages}
<p style="margin-top:18px"><button>${escapeHtml(words.save)}</button></p></form>`,
    );
  };

  router.get('/u/:token', async (req, res) => {
    const found = await readerOf(req);
    if (!found) return sendPage(res, 404, ...INCOMPLETE);
    await showChoices(req, res, found.key, found.reader, false);
  });

  // The page's button, and a mail program's one-click POST (RFC 8058): both end here.
  router.post('/u/:token', body, async (req, res) => {
    const found = await readerOf(req);
    if (!found) return sendPage(res, 404, ...INCOMPLETE);
    const { key, reader } = found;
    await unsubscribeFrom(db, key, req.ip ?? null, await businessNow(db));
    const words = leavingWords[languageOf(reader)];
    show(
      res,
      reader,
      words.left,
      `<p>${escapeHtml(words.leftText)}</p>
<form method="post" action="/u/${encodeURIComponent(String(req.params.token))}/why"><fieldset><legend>${escapeHtml(words.why)}</legend>${words.reasons
        .map((r, i) => `<label class="option"><input type="radio" name="why" value="${i}"> ${escapeHtml(r)}</label>`)
        .join('')}</fieldset><p style="margin-top:14px"><button>${escapeHtml(words.tell)}</button></p></form>`,
    );
  });

  router.post('/u/:token/why', body, async (req, res) => {
    const found = await readerOf(req);
    if (!found) return sendPage(res, 404, ...INCOMPLETE);
    const { key, reader } = found;
    const words = leavingWords[languageOf(reader)];
    // Kept in English, so that the team reads one language.
    const why = leavingWords.en.reasons[Number((req.body as { why?: string } | undefined)?.why)];
    if (why) await tellWhy(db, key.workspaceId, reader.person, why, await businessNow(db));
    show(res, reader, words.left, `<p>${escapeHtml(words.thanks)}</p>`);
  });

  router.post('/u/:token/choose', body, async (req, res) => {
    const found = await readerOf(req);
    if (!found) return sendPage(res, 404, ...INCOMPLETE);
    const { key, reader } = found;
    const sent = (req.body ?? {}) as Record<string, string | string[] | undefined>;
    const language = OFFERED.find((l) => l === sent['language']) ?? null;
    const wanted = {
      lists: [sent['list'] ?? []].flat(),
      paused: sent['pause'] === 'yes',
      pace: PACES.find((days) => String(days) === sent['pace']) ?? null,
      language: reader.hasLanguage ? language : null,
    };
    await choose(db, key.workspaceId, reader.person, wanted, req.ip ?? null, await businessNow(db));
    await showChoices(req, res, key, (await readerOfSend(db, key)) ?? reader, true);
  });
}
