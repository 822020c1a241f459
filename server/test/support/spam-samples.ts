import type { Block, Email } from '@ascenso/core';
import { paragraphs } from '@ascenso/core';

// Thirty emails that nobody should send, as they come to be written: too loud, too eager, too good to be true, hardly anything
// but a picture, a trick with the source. Each is a whole email; what is bad about it is all that they share.

const footer: Block = { kind: 'footer', id: 'foot', reason: 'You asked for our letters.' };
const text = (...all: string[]): Block => ({ kind: 'text', id: 'words', doc: paragraphs(...all) });
const button = (label: string, address = 'https://foldwell.example/kits'): Block => ({
  kind: 'button',
  id: 'go',
  label,
  address,
});
const picture: Block = { kind: 'image', id: 'picture', file: 'cover', alt: '', link: '', width: 536 };
const linked: Block = { ...picture, link: 'https://foldwell.example/kits' };
const html = (source: string): Block => ({ kind: 'html', id: 'raw', source });
const about =
  'Our kits are made at the bench in Lisbon, of linen thread and good paper, and come with a guide of forty pages.';

const email = (subject: string, ...blocks: Block[]): Partial<Email> => ({ subject, blocks: [...blocks, footer] });

export const badEmails: [what: string, email: Partial<Email>][] = [
  [
    'money back, in capitals',
    email('100% GUARANTEED KITS', text(`${about} MONEY BACK GUARANTEE! 100% GUARANTEED.`), button('Get it')),
  ],
  [
    'a money back guarantee',
    email('A promise about our kits', text(about, 'All of it with our money back guarantee.'), button('See the kits')),
  ],
  [
    'guaranteed with a shout',
    email('Flat pages', text(about, 'Your pages lie flat, guaranteed!'), button('See the kits')),
  ],
  ['a hundred percent guaranteed', email('Flat pages', text(about, 'Flat pages, 100% guaranteed.'), button('See how'))],
  ['dear friend', email('A word from the bench', text('Dear Friend,', about), button('See the kits'))],
  ['dear sirs', email('A word from the bench', text('Dear Sirs,', about), button('See the kits'))],
  [
    'a winner',
    email(
      'You are our winner',
      text('Dear lucky winner,', 'You have been chosen to receive a kit.', about),
      button('Claim it'),
    ),
  ],
  [
    'an unclaimed prize',
    email('Your prize is waiting', text('You have an unclaimed prize in our shop.', about), button('Claim it')),
  ],
  [
    'how to be removed',
    email(
      'Workshop letter',
      text(about, 'If you wish to be removed from future mailings, write to us.'),
      button('Read on'),
    ),
  ],
  [
    'to be removed, please',
    email('Workshop letter', text(about, 'To be removed, please click below.'), button('Read on')),
  ],
  [
    'a one-time offer',
    email('Only today', text(about, 'This is a one-time offer: it will not come back.'), button('Take it')),
  ],
  [
    'a free instant quote',
    email('What would a binding cost?', text(about, 'Get your free instant online quote now.'), button('Get a quote')),
  ],
  [
    'losing weight',
    email(
      'Lose 10 pounds of paper',
      text('Lose extra pounds without dieting: clear your shelf of paper.', about),
      button('How'),
    ),
  ],
  ['debt', email('Get out of debt', text('Wipe out what you owe, and bind a ledger of it.', about), button('How'))],
  ['as seen on television', email('As seen on TV: the bone folder', text(about), button('See it'))],
  ['buy', email('Buy a kit, get thread', text(about, 'At very affordable prices.'), button('Buy'))],
  [
    'millions of dollars',
    email(
      'A chest of ledgers',
      text('A chest worth $1,500,000.00 was found with our ledgers in it.', about),
      button('Read on'),
    ),
  ],
  [
    'urgent business',
    email(
      'Please read',
      text('I write to you with an urgent business proposal about paper.', about),
      button('Read on'),
    ),
  ],
  [
    'a replica watch',
    email('A box for your watch', text('Even a replica rolex looks well in this box.', about), button('See the box')),
  ],
  [
    'pills',
    email(
      'A book of remedies',
      text('From the herbal: no prescription needed, our online pharmacy of paper.', about),
      button('Open'),
    ),
  ],
  [
    'marketing partners',
    email(
      'From our partners',
      text(about, 'You get this since you registered with a marketing partner or a partner website.'),
      button('Look'),
    ),
  ],
  [
    'shouting',
    email(
      'YOUR KIT IS WAITING FOR YOU',
      text('WE HAVE KEPT IT FOR YOU. IT WILL BE GONE TOMORROW. ORDER NOW!!!'),
      button('ORDER NOW'),
    ),
  ],
  [
    'asking and exclaiming',
    email('Have you seen this?!', text('You really should!!! Hurry!!!', about), button('Look')),
  ],
  ['one picture and nothing else', email('Look', picture)],
  ['one linked picture and nothing else', email('Look', linked)],
  [
    'words that nobody can see',
    email(
      'A letter',
      text(about),
      html(
        '<p style="color:#ffffff;background:#ffffff">cheap pills casino loan mortgage</p><p><font color="#ffffff">cheap casino loans</font></p>',
      ),
    ),
  ],
  [
    'a shortened plain text',
    {
      ...email('A letter', text(about, about, about), button('Read')),
      text: { words: 'Nothing of this is in the other part: zebra xylophone quartz.', over: '' },
    },
  ],
  ['a link to a number', email('A letter', text(about), button('Open', 'http://93.184.216.34/kits'))],
  [
    'banking',
    email(
      'About banking laws',
      text('Under the banking laws of our country, the balance is yours.', about),
      button('Claim'),
    ),
  ],
  [
    'no medical exam',
    email(
      'Cover for your books',
      text('Cover your books: no medical exam, no questions.', about),
      button('Cover them'),
    ),
  ],
];
