import type { Response } from 'express';
import { escapeHtml, type HouseStyle, type Written } from '@ascenso/core';

/** An address or colour of the house, as it may stand in a style sheet: nothing in it ends the rule. */
const css = (value: string) => value.replace(/[^#\w\s,.'%()-]/g, '');

const styles = (s: HouseStyle) => `
*{box-sizing:border-box}
input{accent-color:${css(s.accent)}}
body{margin:0;background:${css(s.page)};color:${css(s.text)};font:${s.size}px/1.5 ${css(s.font)}}
main{max-width:34rem;margin:0 auto;padding:6vh 16px}
.sheet{background:${css(s.sheet)};border:1px solid ${css(s.line)};border-radius:12px;padding:28px}
h1{font:700 ${Math.min(s.titleSize, 34)}px/1.2 ${css(s.headingFont)};margin:0 0 10px}
img{display:block;max-width:100%;margin:0 auto 20px}
p{margin:0 0 14px}
.soft{color:${css(s.soft)}}
label,legend{display:block;font-weight:600;margin:14px 0 4px;padding:0}
fieldset{border:0;margin:14px 0 0;padding:0;min-width:0}
legend{margin-top:0}
input:not([type=radio]):not([type=checkbox]),select{width:100%;min-height:44px;font:inherit;color:inherit;background:${css(s.sheet)};border:1px solid ${css(s.soft)};border-radius:${s.radius}px;padding:8px 12px}
.option{display:flex;gap:10px;align-items:center;font-weight:400;margin:0;min-height:32px}
.agree{display:flex;gap:10px;align-items:flex-start;font-weight:400;margin:18px 0}
.agree input{margin-top:5px}
button,.button{display:inline-block;min-height:48px;font:700 inherit;font-size:inherit;font-weight:700;background:${css(s.accent)};color:${css(s.onAccent)};border:0;border-radius:${s.radius}px;padding:11px 24px;cursor:pointer;text-decoration:none}
:focus-visible{outline:3px solid ${css(s.link)};outline-offset:2px}
.fault{color:#A63528;font-weight:600;margin:4px 0 0}
.trap{position:absolute;left:-10000px;top:auto;width:1px;height:1px;overflow:hidden}
footer{margin-top:18px;text-align:center;font-size:13px}`;

/** A page for readers in the house's own look: no script, nothing loaded from elsewhere. `body` is HTML of our own. */
export function sendHousePage(
  res: Response,
  status: number,
  {
    style,
    language,
    title,
    body,
    leadsTo,
  }: {
    style: HouseStyle;
    language: Written;
    title: string;
    body: string;
    /** Address of another site that its form leads to in the end: browsers ask the page's policy about redirects too. */
    leadsTo?: string;
  },
): void {
  const policy = String(res.getHeader('Content-Security-Policy') ?? '');
  if (leadsTo)
    res.set(
      'Content-Security-Policy',
      policy.replace("form-action 'self'", `form-action 'self' ${new URL(leadsTo).origin}`),
    );
  const logo = style.logo.file
    ? `<img src="/f/${encodeURIComponent(style.logo.file)}" alt="${escapeHtml(style.brand)}" width="${style.logo.width}">`
    : '';
  res
    .status(status)
    .set('Cache-Control', 'no-store')
    .set('Referrer-Policy', 'no-referrer')
    .type('html')
    .send(
      `<!doctype html><html lang="${language}"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>${escapeHtml(title)}</title><style>${styles(style)}</style></head>
<body><main><div class="sheet">${logo}<h1>${escapeHtml(title)}</h1>${body}</div><footer class="soft">${escapeHtml(style.postalAddress)}</footer></main></body></html>`,
    );
}
