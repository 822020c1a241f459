import { expect, test } from 'vitest';
import { guessMapping, itemFields } from '../src/email/index.ts';

const page = 'https://foldwell.example/';

// The shapes are made up; that shops and blogs name their fields so is common practice, no published source.
test('what the fields of real items are for is guessed by what they hold, then by what they are called', () => {
  expect(guessMapping([{ title: 'Kit', price: 26, quantity: 1, page: `${page}kit`, image: `${page}kit.png` }])).toEqual(
    {
      picture: 'image',
      title: 'title',
      text: '',
      quantity: 'quantity',
      price: 'price',
      link: 'page',
    },
  );
  // Fields of an object inside an item, and a picture that is known by its address alone.
  expect(
    guessMapping([{ product: { name: 'Awl', main: `${page}awl.jpg?w=2` }, unit_price: 9, qty: 2, href: `${page}awl` }]),
  ).toEqual({
    picture: 'product.main',
    title: 'product.name',
    text: '',
    quantity: 'qty',
    price: 'unit_price',
    link: 'href',
  });
  // Articles have neither price nor quantity; the first has no picture.
  const articles = [
    { headline: 'Which thread?', excerpt: 'Linen, mostly.', url: `${page}thread`, thumbnail: null },
    { headline: 'Folding', excerpt: 'Along the grain.', url: `${page}fold`, thumbnail: `${page}fold.webp` },
  ];
  expect(guessMapping(articles)).toEqual({
    picture: 'thumbnail',
    title: 'headline',
    text: 'excerpt',
    quantity: '',
    price: '',
    link: 'url',
  });
});

test('no field serves twice, and what is no item has none', () => {
  const mapping = guessMapping([{ url: `${page}only.png` }]);
  expect(mapping.picture).toBe('url');
  expect(mapping.link).toBe('');
  expect(itemFields(['word', null, 3, { 'a b': 1, deep: { er: { est: { no: 1 } } }, list: [1] }])).toEqual(['list']);
});
