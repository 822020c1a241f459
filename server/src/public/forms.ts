import express, { type Request, type Response, type Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import { emailAddress } from '@ascenso/contracts';
import { escapeHtml, joiningWords, readAnswers, type ValueKind, type SignUpForm } from '@ascenso/core';
import { businessNow } from '../app/clock.ts';
import type { AppContext } from '../app/context.ts';
import { INCOMPLETE, sendPage } from '../app/page.ts';
import { attributeTypes } from '../db/attributes.ts';
import { fileName } from '../db/files.ts';
import { hostedForm } from '../db/forms.ts';
import { transact } from '../db/transact.ts';
import { readText, signText } from '../mail/token.ts';
import { ask, askedBy, confirm } from '../people/joining.ts';
import { READER } from '../app/site-script.ts';
import { siteHosts } from '../db/site.ts';
import { namingReader, readerToken } from '../people/reaching.ts';
import { recordDownload } from '../people/readings.ts';
import { AGREE, FORM_SCRIPT, formHtml, TRAP } from '../app/form-html.ts';
import { sendHousePage } from './house-page.ts';

/** Nobody reads a form and fills it in within so long, ms: a program does. */
const LEAST_MS = 1_500;
/** Sendings from one network in a quarter of an hour. */
const FROM_ONE_NETWORK = 20;

type Hosted = NonNullable<Awaited<ReturnType<typeof hostedForm>>>;

/** Sign-up forms, and the page on which the owner of an address confirms. */
export function formRoutes(router: Router, ctx: AppContext): void {
  const { db } = ctx.connection;
  const { base, secret } = ctx.sending;
  const body = express.urlencoded({ extended: false, limit: '20kb', parameterLimit: 100 });
  const wantsJson = (req: Request) => req.accepts(['html', 'json']) === 'json';

  /** Answers in place to the script of a snippet, on whatever page it stands; else by a page. */
  const tell = async (
    req: Request,
    res: Response,
    status: number,
    told: { title: string; text: string; field?: string },
    page: () => void | Promise<void>,
  ): Promise<void> => {
    if (!wantsJson(req)) return page();
    res
      .status(status)
      .set({
        'Access-Control-Allow-Origin': '*',
        'Cross-Origin-Resource-Policy': 'cross-origin',
        'Cache-Control': 'no-store',
      })
      .json({ ok: status === 200, ...told });
  };

  const kindsOf = async (ws: string): Promise<(key: string) => ValueKind | undefined> => {
    const known = await attributeTypes(db, ws);
    return (key) => known.get(key);
  };

  const showForm = async (
    res: Response,
    form: Hosted,
    status: number,
    filled?: Parameters<typeof formHtml>[3],
  ): Promise<void> => {
    // Whoever mends a field has read the page long ago.
    const since = filled?.values['t'] || signText(secret, `form ${Date.now()}`);
    const begun = `<input type="hidden" name="t" value="${escapeHtml(since)}">`;
    const intro = form.doc.intro ? `<p>${escapeHtml(form.doc.intro)}</p>` : '';
    sendHousePage(res, status, {
      style: form.style,
      language: form.doc.language,
      title: form.doc.title,
      body: intro + formHtml(form.doc, `/form/${form.id}`, await kindsOf(form.ws), filled, begun),
    });
  };

  router.get('/form.js', (_req, res) => {
    res
      .set({ 'Cross-Origin-Resource-Policy': 'cross-origin', 'Cache-Control': 'public, max-age=3600' })
      .type('text/javascript')
      .send(FORM_SCRIPT);
  });

  router.get('/form/:id', async (req, res) => {
    const form = await hostedForm(db, String(req.params.id));
    if (!form || (form.status !== 'open' && req.query.preview === undefined))
      return sendPage(res, 404, 'There is no such form', '<p>It may have been closed.</p>');
    await showForm(res, form, 200);
  });

  const tooOften = async (req: Request, res: Response): Promise<void> => {
    const form = await hostedForm(db, String(req.params.id));
    if (!form) return sendPage(res, 404, 'There is no such form', '');
    const text = joiningWords[form.doc.language].tooOften;
    await tell(req, res, 429, { title: '', text }, () =>
      sendHousePage(res, 429, {
        style: form.style,
        language: form.doc.language,
        title: form.doc.title,
        body: `<p role="alert">${escapeHtml(text)}</p>`,
      }),
    );
  };
  const limited = rateLimit({
    windowMs: 15 * 60_000,
    limit: FROM_ONE_NETWORK,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    handler: (req, res, next) => {
      tooOften(req, res).catch(next);
    },
  });

  router.post('/form/:id', limited, body, async (req, res) => {
    const form = await hostedForm(db, String(req.params.id));
    if (form?.status !== 'open') return sendPage(res, 404, 'There is no such form', '<p>It may have been closed.</p>');
    const words = joiningWords[form.doc.language];
    const sent = Object.fromEntries(
      Object.entries((req.body ?? {}) as Record<string, unknown>).map(([k, v]) => [k, typeof v === 'string' ? v : '']),
    );
    const refuse = (field: string, text: string) =>
      tell(req, res, 422, { title: '', text, field }, () =>
        showForm(res, form, 422, { values: sent, fault: { field, words: text } }),
      );
    const email = emailAddress.safeParse(sent['email'] ?? '');
    if (!email.success) return refuse('email', words.wrongEmail);
    const answers = readAnswers(form.doc, sent, await kindsOf(form.ws));
    if ('field' in answers) return refuse(answers.field, answers.why === 'missing' ? words.missing : words.wrong);
    if (!sent[AGREE]) return refuse(AGREE, words.missing);
    const begun = /^form (\d+)$/.exec(readText(secret, sent['t'] ?? '') ?? '')?.[1];
    const tooFast = begun !== undefined && Date.now() - Number(begun) < LEAST_MS;
    // A program is answered as anybody is: it learns nothing.
    if (!sent[TRAP] && !tooFast)
      await transact(db, async (tx) =>
        ask(
          tx,
          { ws: form.ws, id: form.id, version: form.version, doc: form.doc },
          {
            email: email.data,
            answers,
            where: req.ip ?? null,
            addressOf: (id) => `${base}/j/${signText(secret, `join ${form.ws} ${id}`)}`,
          },
          await businessNow(tx),
        ),
      );
    await tell(req, res, 200, { title: words.look, text: words.lookText }, () =>
      sendHousePage(res, 200, {
        style: form.style,
        language: form.doc.language,
        title: words.look,
        body: `<p>${escapeHtml(words.lookText)}</p>`,
      }),
    );
  });

  /** The ask that an address in a confirmation email names. */
  const asked = async (req: Request) => {
    const [, ws = '', id = ''] = /^join (\S+) (\S+)$/.exec(readText(secret, String(req.params.token)) ?? '') ?? [];
    const it = ws && id ? await askedBy(db, ws, id) : undefined;
    const form = it && (await hostedForm(db, it.form.id));
    return it && form ? { ws, id, it, form } : null;
  };

  const showAfter = async (
    res: Response,
    form: Hosted,
    { doc, token, person }: { doc: SignUpForm; token: string; person: string },
  ) => {
    const words = joiningWords[doc.language];
    if (doc.after.kind === 'page') {
      const name = () => readerToken(secret, form.ws, person, Date.now());
      return res.redirect(303, namingReader(doc.after.address, await siteHosts(db, form.ws), READER, name));
    }
    const file = doc.after.file ? await fileName(db, form.ws, doc.after.file) : undefined;
    const fetch = file
      ? `<p><a class="button" href="/j/${encodeURIComponent(token)}/file">${escapeHtml(words.fetch)}: ${escapeHtml(file)}</a></p>`
      : '';
    sendHousePage(res, 200, {
      style: form.style,
      language: doc.language,
      title: doc.after.title || words.thanks,
      body: `<p>${escapeHtml(doc.after.text)}</p>${fetch}`,
    });
  };

  // Scanners follow every link of an email: a GET confirms nobody.
  router.get('/j/:token', async (req, res) => {
    const found = await asked(req);
    if (!found) return sendPage(res, 404, ...INCOMPLETE);
    const { it, form } = found;
    const { doc } = form;
    if (it.confirmed !== null) return showAfter(res, form, { doc, token: String(req.params.token), person: it.person });
    const words = joiningWords[doc.language];
    sendHousePage(res, 200, {
      style: form.style,
      language: doc.language,
      title: words.confirm,
      ...(doc.after.kind === 'page' ? { leadsTo: doc.after.address } : {}),
      body: `<p><b>${escapeHtml(doc.title)}</b></p><p class="soft">${escapeHtml(it.consent)}</p><form method="post"><button>${escapeHtml(words.confirmText)}</button></form>`,
    });
  });

  router.post('/j/:token', body, async (req, res) => {
    const found = await asked(req);
    if (!found || !(await confirm(db, found.ws, found.id, req.ip ?? null, await businessNow(db))))
      return sendPage(res, 404, ...INCOMPLETE);
    const { form, it } = found;
    await showAfter(res, form, { doc: form.doc, token: String(req.params.token), person: it.person });
  });

  router.get('/j/:token/file', async (req, res) => {
    const found = await asked(req);
    const after = found?.form.doc.after;
    if (!found || found.it.confirmed === null || after?.kind !== 'words' || !after.file)
      return sendPage(res, 404, ...INCOMPLETE);
    if (req.method !== 'HEAD') await recordDownload(db, found.ws, found.it.person, after.file, await businessNow(db));
    res.redirect(302, `/f/${after.file}`);
  });
}
