import { KITS as goods } from '../goods.ts';
import { CURRENCY, totalOf, type Cart } from './cart.ts';

// The pages of the simulated shop: plain HTML, forms, no script.

type Kit = (typeof goods)[number];
type Pictures = Readonly<Record<string, string>>;

const escape = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
const money = (amount: number) => `${amount.toFixed(2)} ${CURRENCY}`;

const page = (
  title: string,
  body: string,
): string => `<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width,initial-scale=1"><title>${escape(title)} · Foldwell Bindery, the shop</title>
<style>body{font:17px/1.5 Georgia,serif;background:#f6f1e6;color:#2b2a27;margin:0}header{background:#6b3a22;color:#fff;padding:14px 24px}header a{color:#fff;text-decoration:none;font-weight:700}header small{opacity:.85;margin-left:12px}main{max-width:720px;margin:28px auto;padding:0 20px}h1{font-size:26px}ul.kits{display:grid;grid-template-columns:repeat(auto-fill,minmax(200px,1fr));gap:18px;list-style:none;padding:0}ul.kits li,.sheet{background:#fff;border:1px solid #ddd6c8;border-radius:8px;padding:14px}img{max-width:100%;height:auto;display:block}table{width:100%;border-collapse:collapse}td,th{padding:8px 4px;border-bottom:1px solid #ddd6c8;text-align:left}td:last-child,th:last-child{text-align:right}button{font:inherit;background:#6b3a22;color:#fff;border:0;border-radius:6px;padding:9px 16px;cursor:pointer}input{font:inherit;padding:8px 10px;border:1px solid #8a8271;border-radius:6px;width:100%;box-sizing:border-box;margin:4px 0 12px}.told{background:#faefd6;color:#6d4a06;border-radius:6px;padding:10px 14px}.row{display:flex;gap:10px;align-items:end}.row>label{flex:1}</style></head>
<body><header><a href="/">Foldwell Bindery</a><small>a simulated shop: nothing is sold here</small></header><main>${body}</main></body></html>`;

export const messagePage = (title: string, text: string): string =>
  page(title, `<h1>${escape(title)}</h1><p>${escape(text)}</p><p><a href="/">To the shop</a></p>`);

const picture = (kit: Kit, pictures: Pictures) =>
  pictures[kit.sku] ? `<img src="${escape(pictures[kit.sku] as string)}" alt="">` : '';
const add = (kit: Kit, to: string, words: string) =>
  `<form method="post" action="${to}"><input type="hidden" name="sku" value="${kit.sku}"><button>${words}</button></form>`;

export const frontPage = (kits: readonly Kit[], pictures: Pictures): string =>
  page(
    'Kits and papers',
    `<h1>Kits, papers, thread</h1><ul class="kits">${kits.map((k) => `<li>${picture(k, pictures)}<p><a href="/kits/${k.sku}"><b>${escape(k.title)}</b></a><br>${money(k.price)}</p>${add(k, '/cart', 'Into the cart')}</li>`).join('')}</ul>`,
  );

export const productPage = (kit: Kit, pictures: Pictures): string =>
  page(
    kit.title,
    `<h1>${escape(kit.title)}</h1><div class="sheet">${picture(kit, pictures)}<p>${money(kit.price)}</p>${add(kit, '/cart', 'Into the cart')}</div>`,
  );

const told = (words: string | undefined) => (words ? `<p class="told" role="alert">${escape(words)}</p>` : '');

function lines(cart: Cart): string {
  const rows = cart.lines.map((l) => {
    const kit = goods.find((g) => g.sku === l.sku);
    return `<tr><td>${escape(kit?.title ?? l.sku)}</td><td>${l.quantity}</td><td>${money((kit?.price ?? 0) * l.quantity)}</td></tr>`;
  });
  const off = cart.code
    ? `<tr><td colspan="2">${escape(cart.code.words)}, code ${escape(cart.code.code)}</td><td>−${money(cart.code.off)}</td></tr>`
    : '';
  const total = totalOf(cart) - (cart.code?.off ?? 0);
  return `<table><tr><th>What</th><th>How many</th><th>Price</th></tr>${rows.join('')}${off}<tr><td colspan="2"><b>Total</b></td><td><b>${money(total)}</b></td></tr></table>`;
}

export const cartPage = (cart: Cart, pictures: Pictures, problem?: string): string =>
  page(
    'Your cart',
    `<h1>Your cart</h1><div class="sheet">${lines(cart)}<form method="post" action="/cart/${cart.id}/checkout">${told(problem)}<p><label>Your email address<input name="email" type="email" value="${escape(cart.email)}"></label><button>To the checkout</button></p></form></div><h2>Something more?</h2><ul class="kits">${goods.map((k) => `<li>${picture(k, pictures)}<p>${escape(k.title)}<br>${money(k.price)}</p>${add(k, `/cart/${cart.id}/add`, 'Add')}</li>`).join('')}</ul>`,
  );

export const checkoutPage = (cart: Cart, problem?: string): string =>
  page(
    'Checkout',
    `<h1>Checkout</h1><div class="sheet"><p>For ${escape(cart.email)}</p>${lines(cart)}${told(problem)}<form method="post" action="/cart/${cart.id}/code" class="row"><label>A code you have<input name="code" autocomplete="off"></label><button style="margin-bottom:12px">Use this code</button></form><form method="post" action="/cart/${cart.id}/order"><button>Place the order</button></form></div>`,
  );

export const thanksPage = (cart: Cart): string =>
  page(
    'Thank you',
    `<h1>Thank you</h1><p class="sheet">Order ${escape(cart.order?.number ?? '')}, ${money(cart.order?.total ?? 0)}. It will be packed by hand.</p><p><a href="/">Back to the shop</a></p>`,
  );
