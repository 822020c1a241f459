import { KITS as goods } from '../goods.ts';
import { countOf, CURRENCY, totalOf, type Cart } from './cart.ts';
import { STYLE } from './style.ts';

// The pages of the simulated shop: plain HTML and forms. The one script is the application's, which tells what was reached.

type Kit = (typeof goods)[number];
export type Pictures = Readonly<Record<string, string>>;

/** What every page needs to know of whoever looks at it, and of the shop. */
export interface Visit {
  pictures: Pictures;
  /** What they have in their cart, or null while they have none. */
  cart: Cart | null;
  /** How prices are written where they live (BCP 47). */
  locale: string;
  /** The script of the application with the name of the site, or null before the demo is made. */
  script: { src: string; site: string } | null;
}

const escape = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** A price as the reader's region writes it. */
const money = ({ locale }: Visit, amount: number) =>
  escape(new Intl.NumberFormat(locale, { style: 'currency', currency: CURRENCY }).format(amount));

const MARK = `<svg viewBox="0 0 48 32" width="48" height="32" aria-hidden="true"><path d="M22 5Q12 0 1 4v23q11-4 21 1zm4 0Q36 0 47 4v23q-11-4-21 1z" fill="#f3e7d0"/><path d="M24 7v4m0 3v4m0 3v4" stroke="#c9532b" stroke-width="2"/></svg>`;

/** Asks whether later visits may be known, where one of our links has said who this is; the answer goes to the script. */
const CONSENT = `<form class="ask" id="ask" hidden><p>May the workshop know when you come back?</p><button type="submit">Yes</button><button type="button" class="plain">No</button></form>
<script>addEventListener('load',function(){var f=document.getElementById('ask');if(!window.ascenso||!ascenso.known||localStorage.asked)return;f.hidden=false;function end(yes){localStorage.asked='1';ascenso.consent(yes);f.hidden=true}f.onsubmit=function(e){e.preventDefault();end(true)};f.querySelector('.plain').onclick=function(){end(false)}})</script>`;

/** What a page says of itself to whoever points to it (Open Graph). */
interface Said {
  about: string;
  picture: string;
}

function page(visit: Visit, title: string, body: string, said?: Said): string {
  const { cart, script } = visit;
  const count = cart && !cart.order ? countOf(cart) : 0;
  const basket =
    cart && count > 0
      ? `<a class="basket" href="/cart/${cart.id}">Cart <b>${count}</b> <span>${money(visit, totalOf(cart))}</span></a>`
      : '<span class="basket empty">Your cart is empty</span>';
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>${escape(title)} · Foldwell Bindery</title>${said ? `<meta property="og:title" content="${escape(title)}"><meta property="og:description" content="${escape(said.about)}">${said.picture ? `<meta property="og:image" content="${escape(said.picture)}">` : ''}` : ''}
<style>${STYLE}</style>${script ? `<script src="${escape(script.src)}" data-site="${escape(script.site)}" defer></script>` : ''}</head>
<body><header><a class="house" href="/">${MARK}<span>Foldwell Bindery<small>Paper, thread, tools and kits</small></span></a>${basket}</header><main>${body}</main>
<footer>Rua das Gáveas 12, Lisboa. A simulated shop: nothing is sold here.</footer>${script ? CONSENT : ''}</body></html>`;
}

export const messagePage = (visit: Visit, title: string, text: string): string =>
  page(visit, title, `<h1>${escape(title)}</h1><p>${escape(text)}</p><p><a href="/">To the shop</a></p>`);

const picture = (kit: Kit, { pictures }: Visit) =>
  pictures[kit.sku] ? `<img src="${escape(pictures[kit.sku] as string)}" alt="" width="384" height="384">` : '';
const add = (kit: Kit, visit: Visit, words: string) =>
  `<form method="post" action="${visit.cart && !visit.cart.order ? `/cart/${visit.cart.id}/add` : '/cart'}"><input type="hidden" name="sku" value="${kit.sku}"><button>${words}</button></form>`;

const card = (kit: Kit, visit: Visit, words: string) =>
  `<li><a href="/kits/${kit.sku}">${picture(kit, visit)}<b>${escape(kit.title)}</b></a><p>${escape(kit.about)}</p><div class="buy"><span class="price">${money(visit, kit.price)}</span>${add(kit, visit, words)}</div></li>`;

export const frontPage = (visit: Visit): string =>
  page(
    visit,
    'Kits and papers',
    `<h1>Kits, papers, thread</h1><p class="lead">Everything for a first book, cut and folded by hand in Lisbon.</p><ul class="kits">${goods.map((k) => card(k, visit, 'Into the cart')).join('')}</ul>`,
  );

export const productPage = (kit: Kit, visit: Visit): string =>
  page(
    visit,
    kit.title,
    `<div class="one">${picture(kit, visit)}<div><h1>${escape(kit.title)}</h1><p class="lead">${escape(kit.about)}</p><ul class="holds">${kit.holds.map((h) => `<li>${escape(h)}</li>`).join('')}</ul><div class="buy"><span class="price">${money(visit, kit.price)}</span>${add(kit, visit, 'Into the cart')}</div></div></div>`,
    { about: kit.about, picture: visit.pictures[kit.sku] ?? '' },
  );

const told = (words: string | undefined) => (words ? `<p class="told" role="alert">${escape(words)}</p>` : '');

/** The lines of a cart with their sum; where it may still be changed, each with its number. */
function lines(cart: Cart, visit: Visit, change: boolean): string {
  const rows = cart.lines.map((l) => {
    const kit = goods.find((g) => g.sku === l.sku);
    const title = escape(kit?.title ?? l.sku);
    const count = change
      ? `<form method="post" action="/cart/${cart.id}/count" class="count"><input type="hidden" name="sku" value="${l.sku}"><button name="by" value="-1" aria-label="One ${title} less">−</button><b>${l.quantity}</b><button name="by" value="1" aria-label="One ${title} more">+</button></form>`
      : String(l.quantity);
    return `<tr><td>${kit ? picture(kit, visit) : ''}</td><td>${title}</td><td>${count}</td><td>${money(visit, (kit?.price ?? 0) * l.quantity)}</td></tr>`;
  });
  const off = cart.code
    ? `<tr class="off"><td></td><td colspan="2">${escape(cart.code.words)}, code ${escape(cart.code.code)}</td><td>−${money(visit, cart.code.off)}</td></tr>`
    : '';
  const total = totalOf(cart) - (cart.code?.off ?? 0);
  return `<table><thead><tr><th></th><th>What</th><th>How many</th><th>Price</th></tr></thead><tbody>${rows.join('')}${off}<tr class="total"><td></td><td colspan="2">Total</td><td>${money(visit, total)}</td></tr></tbody></table>`;
}

export const cartPage = (cart: Cart, visit: Visit, problem?: string): string =>
  page(
    visit,
    'Your cart',
    cart.lines.length === 0
      ? '<h1>Your cart</h1><p>It is empty. <a href="/">To the shop</a></p>'
      : `<h1>Your cart</h1><div class="sheet">${lines(cart, visit, true)}<form method="post" action="/cart/${cart.id}/checkout">${told(problem)}<p><label>Your email address<input name="email" type="email" value="${escape(cart.email)}"></label><button>To the checkout</button></p></form></div><h2>Something more?</h2><ul class="kits">${goods
          .filter((k) => !cart.lines.some((l) => l.sku === k.sku))
          .map((k) => card(k, visit, 'Add'))
          .join('')}</ul>`,
  );

export const checkoutPage = (cart: Cart, visit: Visit, problem?: string): string =>
  page(
    visit,
    'Checkout',
    `<h1>Checkout</h1><div class="sheet"><p>For ${escape(cart.email)}</p>${lines(cart, visit, false)}${told(problem)}<form method="post" action="/cart/${cart.id}/code" class="row"><label>A code you have<input name="code" autocomplete="off"></label><button class="plain">Use this code</button></form><form method="post" action="/cart/${cart.id}/order"><button>Place the order</button></form></div>`,
  );

export const thanksPage = (cart: Cart, visit: Visit): string =>
  page(
    visit,
    'Thank you',
    `<h1>Thank you</h1><p class="sheet">Order <b>${escape(cart.order?.number ?? '')}</b>, ${money(visit, cart.order?.total ?? 0)}. It will be packed by hand.</p><p><a href="/">Back to the shop</a></p>`,
  );
