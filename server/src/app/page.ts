import type { Response } from 'express';

/** Answers with a small page for readers. It may show an address: nobody between us and them keeps a copy. */
export const sendPage = (res: Response, status: number, title: string, body: string): void => {
  res.status(status).set('Cache-Control', 'no-store').type('html').send(page(title, body));
};

/** For an address that was cut off, or changed. */
export const INCOMPLETE: [title: string, body: string] = [
  'This address is not complete',
  '<p>Open the link in the email again, or copy the whole of it.</p>',
];

/** No script, nothing loaded from anywhere. `body` is HTML of our own. */
function page(title: string, body: string): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>${title}</title>
<style>body{font:17px/1.5 system-ui,sans-serif;background:#F5F3EC;color:#1D2627;margin:0}main{max-width:34rem;margin:12vh auto;background:#fff;border:1px solid #E1DCCF;border-radius:12px;padding:28px 32px}h1{font-size:22px;margin:0 0 8px}button{font:inherit;font-weight:600;background:#1E5B4E;color:#fff;border:0;border-radius:8px;padding:10px 18px;cursor:pointer}</style></head>
<body><main><h1>${title}</h1>${body}</main></body></html>`;
}
