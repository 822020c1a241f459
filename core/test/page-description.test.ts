import { expect, test } from 'vitest';
import { describedBy } from '../src/email/index.ts';

// The Open Graph protocol (ogp.me), "Basic Metadata": the example that stands there, as it stood, with a description of the
// optional metadata beside it.
const EXAMPLE = `<html prefix="og: https://ogp.me/ns#">
<head>
<title>The Rock (1996)</title>
<meta property="og:title" content="The Rock" />
<meta property="og:type" content="video.movie" />
<meta property="og:url" content="https://www.imdb.com/title/tt0117500/" />
<meta property="og:image" content="https://ia.media-imdb.com/images/rock.jpg" />
<meta property="og:image:alt" content="A shiny red apple with a bite taken out" />
<meta property="og:description" content="Sean Connery found fame and fortune as the suave, sophisticated British agent, James Bond." />
</head>
</html>`;

test('the example of the protocol is read as it is meant', () => {
  expect(describedBy(EXAMPLE, 'https://www.imdb.com/title/tt0117500/')).toEqual({
    title: 'The Rock',
    summary: 'Sean Connery found fame and fortune as the suave, sophisticated British agent, James Bond.',
    picture: 'https://ia.media-imdb.com/images/rock.jpg',
    alt: 'A shiny red apple with a bite taken out',
  });
});

test.each([
  [
    'title and description of HTML where there is no Open Graph',
    '<title> Which\n thread? </title><meta name="Description" content="Linen, mostly.">',
    { title: 'Which thread?', summary: 'Linen, mostly.', picture: '' },
  ],
  ['an empty property is none', '<meta property="og:title" content=" "><title>Thread</title>', { title: 'Thread' }],
  [
    'a picture beside the page',
    '<meta property="og:image" content="/p/kit.png"><title>x</title>',
    { picture: 'https://foldwell.example/p/kit.png' },
  ],
  [
    'a picture that is no address of the web',
    '<meta property="og:image" content="javascript:alert(1)"><title>x</title>',
    { picture: '' },
  ],
  [
    'markup in what it says stays words',
    '<meta property="og:title" content="&lt;b&gt;Paper&lt;/b&gt; &amp; thread">',
    { title: '<b>Paper</b> & thread' },
  ],
  ['a page that says nothing', '<p>Hello</p>', { title: '', summary: '', picture: '', alt: '' }],
])('%s', (_what, html, said) => {
  expect(describedBy(html, 'https://foldwell.example/kits/1')).toMatchObject(said);
});
